'use client';

import type { Insert } from '@/core/session/records/inserts';
import { SpectrumChart } from '../../controls/SpectrumChart';
import type { EffectExtras } from '../extras';
import { SoundingKeys } from '../pictures/SoundingKeys';

/** Its current sound, and the keys that play. */
function SynthPicture({ insert }: { readonly insert: Insert }) {
  return (
    <>
      <SpectrumChart
        targetId={insert.id}
        height={230}
        step={20}
        label="Synth: spectra of what comes in and goes out, live"
      />
      <SoundingKeys insertId={insert.id} effect="synth" />
    </>
  );
}

export const synthView: EffectExtras = { Picture: SynthPicture, pictureName: 'Sound now', withSpectrum: true };
