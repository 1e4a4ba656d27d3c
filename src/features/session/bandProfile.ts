import type { Portrait } from '@/core/analysis/portrait';
import type { Plan } from '@/core/engine/plan';
import type { SessionDocument } from '@/core/session/records/document';
import type { Studio } from './studio';

/** Range of a measurement: the loop if it is on, else the whole session. */
export function stretchOf({ session }: SessionDocument, { framesPerBeat, endFrame }: Plan) {
  const { loopOn, loopStartBeat, loopEndBeat } = session;
  return {
    fromFrame: loopOn ? Math.round(loopStartBeat * framesPerBeat) : 0,
    toFrame: loopOn ? Math.round(loopEndBeat * framesPerBeat) : endFrame,
    tailSeconds: 0,
  };
}

/**
 * Portraits of what plans play, over the loop or the whole session, as work that can be given up.
 * @throws KinetikonError work.cancelled
 */
export async function portraitsOf(studio: Studio, label: string, plans: readonly Plan[]): Promise<Portrait[]> {
  const { document } = studio.state;
  return studio.jobs.track(label, async ({ signal, progress }) => {
    const samples = await studio.sounds.allSamples(signal);
    const portraits: Portrait[] = [];
    for (const [index, plan] of plans.entries()) {
      portraits.push(
        await studio.renderer.run(
          { kind: 'portrait', plan, samples, range: stretchOf(document, plan) },
          { signal, onProgress: (done) => progress((index + done) / plans.length) },
        ),
      );
    }
    return portraits;
  });
}
