import { useEffect, useState } from 'react';
import type { Echogram } from '@/core/analysis/echogram';
import { KinetikonError } from '@/core/errors';
import { compileInserts } from '@/core/session/compile';
import { useStudio, useStudioState } from '../session/StudioContext';

const WAIT_MS = 40;

/** The impulse response of an effect from the engine, computed anew shortly after anything it depends on changes. */
export function useEchogram(insertId: string, seconds: number, slots: number): Echogram | null {
  const studio = useStudio();
  const chain = useStudioState(({ document }) =>
    JSON.stringify(compileInserts(document, [insertId]).map((insert) => ({ ...insert, bypass: false }))),
  );
  const sampleRateHz = useStudioState(({ document }) => document.session.sampleRateHz);
  const [echogram, setEchogram] = useState<Echogram | null>(null);
  useEffect(() => {
    const controller = new AbortController();
    const timer = setTimeout(() => {
      studio.worker
        .run(
          { kind: 'echogram', inserts: JSON.parse(chain), sampleRateHz, seconds, slots },
          { signal: controller.signal },
        )
        .then(setEchogram, (error: unknown) => {
          if (!(error instanceof KinetikonError && error.code === 'work.cancelled')) studio.report(error);
        });
    }, WAIT_MS);
    return () => {
      clearTimeout(timer);
      controller.abort();
    };
  }, [studio, chain, sampleRateHz, seconds, slots]);
  return echogram;
}
