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
 * Portraits of what plans play, over the loop or the whole session.
 * @throws KinetikonError work.cancelled
 */
export async function portraits(
  studio: Studio,
  plans: readonly Plan[],
  { signal, onProgress }: { readonly signal: AbortSignal; readonly onProgress: (done: number) => void },
): Promise<Portrait[]> {
  const { document } = studio.state;
  const samples = await studio.sounds.allPlayed(signal);
  const found: Portrait[] = [];
  for (const [index, plan] of plans.entries()) {
    found.push(
      await studio.renderer.run(
        { kind: 'portrait', plan, samples, range: stretchOf(document, plan) },
        { signal, onProgress: (done) => onProgress((index + done) / plans.length) },
      ),
    );
  }
  return found;
}
