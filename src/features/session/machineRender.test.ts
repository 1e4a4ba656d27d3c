import type { Render } from '@/core/protocol/renders';
import { newDocument } from '@/core/session/records/factories';
import * as api from '@/runtime/client/api';
import { renderOnMachines } from './machineRender';

jest.mock('@/runtime/client/api');
const mocked = jest.mocked(api);

const order = {
  request: { kind: 'print', document: newDocument('Tide'), recipe: { kind: 'strip', stripId: 't' } },
  name: 'One, frozen',
  sessionId: 's',
} as const;
const render = (more: Partial<Render>): Render =>
  ({ id: 'r', state: 'running', progress: 0, error: null, ...more }) as Render;
const job = () => {
  const controller = new AbortController();
  const seen: number[] = [];
  return {
    signal: controller.signal,
    progress: (done: number) => seen.push(done),
    seen,
    cancel: () => controller.abort(),
  };
};

beforeEach(() => {
  jest.resetAllMocks();
  mocked.fetchRenderResult.mockResolvedValue(new Blob(['a']));
});

describe('a render on the studio’s machines', () => {
  it('is waited for, with its progress', async () => {
    mocked.orderRender.mockResolvedValue(render({ state: 'waiting' }));
    mocked.fetchRender
      .mockResolvedValueOnce(render({ progress: 0.5 }))
      .mockResolvedValueOnce(render({ state: 'done', progress: 1, result: { landSeconds: 2, overDb: 0 } as never }));
    const it = job();
    expect(await renderOnMachines(order, it)).toEqual({
      file: new Blob(['a']),
      facts: { landSeconds: 2, overDb: 0 },
    });
    expect(it.seen).toEqual([0.5, 1]);
    expect(mocked.orderRender.mock.calls).toEqual([[order]]);
  });

  it('is had at once where it has been made before', async () => {
    mocked.orderRender.mockResolvedValue(render({ state: 'done' }));
    await renderOnMachines(order, job());
    expect(mocked.fetchRender).not.toHaveBeenCalled();
  });

  it('is cancelled there when it is cancelled here', async () => {
    mocked.orderRender.mockResolvedValue(render({}));
    const it = job();
    const result = renderOnMachines(order, it);
    it.cancel();
    await expect(result).rejects.toMatchObject({ code: 'work.cancelled' });
    expect(mocked.cancelRender.mock.calls).toEqual([['r']]);
  });

  it('tells why it failed there', async () => {
    mocked.orderRender.mockResolvedValue(
      render({ state: 'failed', error: { code: 'x', message: 'A sound is not there.' } }),
    );
    await expect(renderOnMachines(order, job())).rejects.toMatchObject({
      code: 'render.failed',
      message: 'One, frozen failed on the studio’s machines: A sound is not there.',
    });
  });
});
