import { useEffect, useState } from 'react';
import type { Picture } from '@/core/analysis/pictures';
import { KinetikonError } from '@/core/errors';
import { findEffect } from '@/core/effects/registry';
import { compileInserts, timingOf } from '@/core/session/compile';
import type { Insert } from '@/core/session/records';
import { useStudio, useStudioState } from '../session/StudioContext';

const WAIT_MS = 40;

/** What the engine makes of a test sound through an effect, computed anew shortly after anything it depends on changes. */
export function usePicture(insert: Insert): Picture | null {
  const studio = useStudio();
  const chain = useStudioState(({ document }) =>
    JSON.stringify(
      document.inserts[insert.id]
        ? compileInserts(document, [insert.id]).map((one) => ({ ...one, bypass: false, curves: [] }))
        : [],
    ),
  );
  const sampleRateHz = useStudioState(({ document }) => document.session.sampleRateHz);
  const barSeconds = useStudioState(({ document }) => {
    const { beatsPerBar, tempoBpm } = timingOf(document);
    return (beatsPerBar * 60) / tempoBpm;
  });
  const { picture } = findEffect(insert.effect)!;
  const [drawn, setDrawn] = useState<Picture | null>(null);
  useEffect(() => {
    if (picture === 'echogram') return;
    const controller = new AbortController();
    const timer = setTimeout(() => {
      studio.worker
        .run(
          { kind: 'picture', picture, inserts: JSON.parse(chain), sampleRateHz, seconds: 2 * barSeconds },
          { signal: controller.signal },
        )
        .then(setDrawn, (error: unknown) => {
          if (!(error instanceof KinetikonError && error.code === 'work.cancelled')) studio.report(error);
        });
    }, WAIT_MS);
    return () => {
      clearTimeout(timer);
      controller.abort();
    };
  }, [studio, picture, chain, sampleRateHz, barSeconds]);
  return drawn;
}
