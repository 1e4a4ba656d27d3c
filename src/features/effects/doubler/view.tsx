'use client';

import { beginningOf, fusionLimit, fusionOf, type Beginning, type Fusion } from '@/core/analysis/fusion';
import { doublerSpec } from '@/core/effects/doubler/spec';
import { defaultValues } from '@/core/effects/spec';
import { soundOf } from '@/core/session/prints';
import { stripOfInsert } from '@/core/session/records/queries';
import type { Insert } from '@/core/session/records/inserts';
import type { SessionDocument } from '@/core/session/records/document';
import { useStudio, useStudioState } from '../../session/StudioContext';
import { useWork } from '../../session/useWork';
import { StereoScope } from '../../controls/StereoScope';
import type { EffectExtras } from '../extras';
import { DelaysPicture } from '../pictures/MovingPictures';
import { usePicture } from '../pictures/pictures';
import './doubler.css';

const VERDICTS: Record<Fusion, string> = {
  fused: 'The ear fuses both: one sound, wide.',
  edge: 'Near the edge of what the ear fuses: sharp beginnings start to part.',
  echo: 'Heard as an echo, not as one sound.',
};

/** The sounds that reach a strip: of its own clips, or of the tracks that feed it. */
function soundsInto(document: SessionDocument, stripId: string): string[] {
  const feeding = new Set([
    stripId,
    ...Object.values(document.sends).flatMap(({ fromId, toId }) => (toId === stripId ? [fromId] : [])),
    ...Object.values(document.tracks).flatMap(({ id, outputId }) => (outputId === stripId ? [id] : [])),
  ]);
  const ids = Object.values(document.clips).flatMap(({ trackId, source }) =>
    feeding.has(trackId) ? (soundOf(document, source) ?? []) : [],
  );
  return [...new Set(ids)];
}

/** The sharpest attack of the sounds that go into an effect; null until it is known, and without any. */
function useBeginning(insert: Insert): Beginning | null {
  const studio = useStudio();
  const { sounds, rate } = useStudioState(({ document }) => ({
    sounds: soundsInto(document, stripOfInsert(document, insert.id)?.id ?? '').join(' '),
    rate: document.session.sampleRateHz,
  }));
  return useWork(sounds === '' ? null : `${sounds} ${rate}`, async (signal) => {
    const ids = sounds.split(' ');
    const found = await studio.sounds.samplesOf(ids, signal);
    await Promise.all(ids.map((id) => studio.sounds.findOnsets(id)));
    const beginnings = found.flatMap(
      ({ left, right }, n) => beginningOf(left, right, rate, studio.state.onsets[ids[n]!] ?? []) ?? [],
    );
    return beginnings.reduce<Beginning | null>(
      (first, one) => (first && fusionLimit(first) <= fusionLimit(one) ? first : one),
      null,
    );
  });
}

const ms = (seconds: number) => `${(1000 * seconds).toFixed(seconds < 0.01 ? 1 : 0)} ms`;

/** Positions of the copies, the stereo field they give, whether they fuse, and what mono cancels. */
function DoublePicture({ insert }: { readonly insert: Insert }) {
  const values = { ...defaultValues(doublerSpec), ...insert.values };
  const picture = usePicture(insert, 'delays');
  const seconds = Number(values.time) / 1000;
  const beginning = useBeginning(insert);
  const limit = fusionLimit(beginning);
  const verdict = fusionOf(seconds, limit);
  return (
    <div className="picture-beside">
      <div>
        <DelaysPicture
          picture={picture}
          insertId={insert.id}
          label="Doubler: delays of its copies over time and what they do to the pitch, from the engine"
          periodic={false}
          cycles={1}
        />
        <p className={verdict === 'fused' ? undefined : 'doubler-warns'} role="status">
          <b>{VERDICTS[verdict]}</b>{' '}
          {beginning === null
            ? `Nothing begins sharply in what goes in: up to ${ms(limit)} are fused.`
            : `What goes in begins within ${ms(beginning.attack)} and lasts ${ms(beginning.length)}: up to ${ms(limit)} are fused.`}
        </p>
        <p>
          {values.mode === 'split'
            ? `In mono the copy cancels the sound first at ${Number((1 / (2 * seconds)).toPrecision(3))} Hz, then at every odd multiple of that.`
            : 'In mono the copies cancel here and there, and never in the same place for long.'}
        </p>
      </div>
      <StereoScope targetId={insert.id} label="Field before and after" />
    </div>
  );
}

export const doublerView: EffectExtras = { Picture: DoublePicture, withScope: true };
