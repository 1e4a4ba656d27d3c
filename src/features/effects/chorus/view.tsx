'use client';

import { movingBand } from '@/core/effects/chorus/spec';
import { specOf } from '@/core/effects/registry';
import { defaultValues } from '@/core/effects/spec';
import type { Insert } from '@/core/session/records/inserts';
import { useStudioState } from '../../session/StudioContext';
import type { EffectExtras } from '../extras';
import { BandStrip } from '../pictures/MovingPictures';

function MovingBand({ insert }: { insert: Insert }) {
  const sampleRate = useStudioState(({ document }) => document.session.sampleRateHz);
  const { bandLow, bandHigh, window } = { ...defaultValues(specOf('chorus')), ...insert.values };
  const { lowHz, highHz } = movingBand(Number(bandLow), Number(bandHigh));
  return <BandStrip lowHz={lowHz} highHz={highHz} window={Number(window)} sampleRate={sampleRate} />;
}

export const chorusView: EffectExtras = { BelowMovement: MovingBand };
