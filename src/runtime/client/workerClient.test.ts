import type { FromWorker, ToWorker } from '@/core/protocol/worker';
import { WorkerClient } from './workerClient';

/** A worker on the other side of which stands the test. */
class Stand {
  readonly sent: ToWorker[] = [];
  onmessage: ((event: { data: FromWorker }) => void) | null = null;
  onerror: ((event: { message: string }) => void) | null = null;
  terminated = false;
  postMessage(message: ToWorker) {
    this.sent.push(message);
  }
  terminate() {
    this.terminated = true;
  }
  answer(message: FromWorker) {
    this.onmessage!({ data: message });
  }
}

const task = { kind: 'echogram', inserts: [], apart: false, sampleRateHz: 48000, seconds: 1, slots: 10 } as const;

function build(kernels: () => Promise<WebAssembly.Module> = () => new Promise(() => {})) {
  const stands: Stand[] = [];
  const client = new WorkerClient(() => {
    const stand = new Stand();
    stands.push(stand);
    return stand as unknown as Worker;
  }, kernels);
  return { stands, client };
}

describe('worker client', () => {
  it('brings each answer to its request, whatever the order, with progress', async () => {
    const { stands, client } = build();
    const seen: number[] = [];
    const first = client.run(task, { onProgress: (done) => seen.push(done) });
    const second = client.run(task);
    expect([stands.length, client.load]).toEqual([1, 2]);
    stands[0]!.answer({ id: 1, kind: 'progress', done: 0.5 });
    stands[0]!.answer({ id: 2, kind: 'result', result: { landSeconds: 2, overDb: 0 }, file: null });
    stands[0]!.answer({ id: 1, kind: 'result', result: { landSeconds: 1, overDb: 0 }, file: new Blob(['a']) });
    expect(await first).toMatchObject({ landSeconds: 1, file: new Blob(['a']) });
    expect(await second).toMatchObject({ landSeconds: 2 });
    expect([seen, client.load]).toEqual([[0.5], 0]);
  });

  it('keeps code and advice of an error', async () => {
    const { stands, client } = build();
    const work = client.run(task);
    stands[0]!.answer({ id: 1, kind: 'error', code: 'file.broken', message: 'torn', kept: 'All.', next: undefined });
    await expect(work).rejects.toMatchObject({ code: 'file.broken', message: 'torn', kept: 'All.' });
  });

  it('passes a cancellation on, also one that came before', async () => {
    const { stands, client } = build();
    const controller = new AbortController();
    void client.run(task, { signal: controller.signal });
    controller.abort();
    void client.run(task, { signal: controller.signal });
    expect(stands[0]!.sent.filter((message) => 'cancel' in message)).toEqual([
      { id: 1, cancel: true },
      { id: 2, cancel: true },
    ]);
  });

  it('rejects what a dying worker leaves, and starts another', async () => {
    const { stands, client } = build();
    const lost = client.run(task);
    stands[0]!.onerror!({ message: 'out of memory' });
    await expect(lost).rejects.toThrow('Background work stopped: out of memory');
    expect(stands[0]!.terminated).toBe(true);
    void client.run(task);
    expect(stands).toHaveLength(2);
  });

  it('hands the compiled kernels over, and fails what waits for kernels that cannot be had', async () => {
    const kernels = {} as WebAssembly.Module;
    const { stands, client } = build(async () => kernels);
    void client.run(task);
    await new Promise(setImmediate);
    expect(stands[0]!.sent.at(-1)).toEqual({ kernels });
    const without = build(() => Promise.reject(new Error('no server.')));
    await expect(without.client.run(task)).rejects.toThrow('Background work stopped: no server.');
    expect(without.stands[0]!.terminated).toBe(true);
  });

  it('cancels its tasks when it is closed', async () => {
    const { stands, client } = build();
    const work = client.run(task);
    client.close();
    await expect(work).rejects.toMatchObject({ code: 'work.cancelled' });
    expect([stands[0]!.terminated, client.load]).toEqual([true, 0]);
  });
});
