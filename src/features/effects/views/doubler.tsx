'use client';

import { attackOf, fusionLimit, fusionOf, type Fusion } from '@/core/analysis/fusion';
import { findEffect } from '@/core/effects/registry';
import { defaultValues } from '@/core/effects/spec';
import { soundOf } from '@/core/session/prints';
import { stripOfInsert, type Insert, type SessionDocument } from '@/core/session/records';
import { useStudio, useStudioState } from '../../session/StudioContext';
import { useWork } from '../../session/useWork';
import { StereoScope } from '../../ui/StereoScope';
import type { EffectExtras } from '../extras';

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

/** How fast what goes into an effect begins, in seconds; null until it is known. */
function useAttack(insert: Insert): number | null {
  const studio = useStudio();
  const { sounds, rate } = useStudioState(({ document }) => ({
    sounds: soundsInto(document, stripOfInsert(document, insert.id)?.id ?? '').join(' '),
    rate: document.session.sampleRateHz,
  }));
  return useWork(sounds === '' ? null : `${sounds} ${rate}`, async (signal) => {
    const ids = sounds.split(' ');
    const found = await studio.samplesOf(ids, signal);
    await Promise.all(ids.map((id) => studio.findOnsets(id)));
    const attacks = found.flatMap(
      ({ left, right }, n) => attackOf(left, right, rate, studio.state.onsets[ids[n]!] ?? []) ?? [],
    );
    return attacks.length > 0 ? Math.min(...attacks) : null;
  });
}

/** Whether both are heard as one, and what a mono listener loses. */
function Truth({ insert }: { readonly insert: Insert }) {
  const values = { ...defaultValues(findEffect('doubler')!), ...insert.values };
  const seconds = Number(values.time) / 1000;
  const attack = useAttack(insert);
  const limit = fusionLimit(attack ?? Infinity);
  const verdict = fusionOf(seconds, limit);
  const cancelled = 1 / (2 * seconds);
  return (
    <div className="doubler-truth">
      <StereoScope targetId={insert.id} label="Field before and after" />
      <div>
        <p className={verdict === 'fused' ? undefined : 'doubler-warns'} role="status">
          <b>{VERDICTS[verdict]}</b>
        </p>
        <p>
          {attack === null
            ? 'No beginnings were found in what goes in here: 50 ms are taken, as for soft sounds.'
            : `What goes in here begins within ${(1000 * attack).toFixed(attack < 0.01 ? 1 : 0)} ms: up to ${(1000 * limit).toFixed(0)} ms are fused.`}
        </p>
        {values.mode === 'split' ? (
          <p>
            {`In mono the copy cancels the sound first at ${Number(cancelled.toPrecision(3))} Hz, then at every odd multiple of that.`}
          </p>
        ) : (
          <p>In mono the copies cancel here and there, and never in the same place for long.</p>
        )}
        <p>What is lost of it by octave stands beside, as it plays.</p>
      </div>
    </div>
  );
}

export const doublerView: EffectExtras = { BelowMovement: Truth };
