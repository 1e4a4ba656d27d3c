import { cancelled, KinetikonError } from '@/core/errors';
import type { Render, RenderOrder } from '@/core/protocol/renders';
import { isUnderWay } from '@/core/protocol/renderStates';
import { cancelRender, fetchRender, fetchRenderResult, orderRender } from '@/runtime/client/api';
import type { RunningJob } from './jobs';

const LOOK_MS = 500;

/**
 * Has the studio's machines render something and waits for the result. When the page is closed meanwhile it is made all
 * the same, and is there at once when it is asked for again.
 * @throws KinetikonError why it failed there, work.cancelled
 */
export async function renderOnMachines(
  order: RenderOrder,
  { signal, progress }: Pick<RunningJob, 'signal' | 'progress'>,
): Promise<{ readonly file: Blob; readonly facts: Render['result'] }> {
  let render = await orderRender(order);
  while (isUnderWay(render)) {
    await new Promise((resolve) => setTimeout(resolve, LOOK_MS));
    if (signal.aborted) {
      await cancelRender(render.id);
      throw cancelled();
    }
    render = await fetchRender(render.id);
    progress(render.progress);
  }
  const { state, error, result } = render;
  if (state === 'done') return { file: await fetchRenderResult(render.id), facts: result };
  if (!error) throw cancelled();
  throw new KinetikonError('render.failed', `${order.name} failed on the studio’s machines: ${error.message}`, {
    kept: 'The session is untouched.',
    next: error.next,
  });
}
