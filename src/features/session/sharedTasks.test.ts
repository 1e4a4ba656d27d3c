import { SharedTasks } from './sharedTasks';

/** Work that ends when it is told to, and counts how often it began and was given up. */
function work() {
  const begun: { finish: (result: string) => void; fail: (error: Error) => void; signal: AbortSignal }[] = [];
  const start = (signal: AbortSignal) =>
    new Promise<string>((finish, fail) => {
      begun.push({ finish, fail, signal });
    });
  return { begun, start };
}

describe('shared tasks', () => {
  it('do what is asked for twice once, and again not at all', async () => {
    const tasks = new SharedTasks<string>(4);
    const { begun, start } = work();
    const first = tasks.ask('a', start);
    const second = tasks.ask('a', start);
    expect(begun).toHaveLength(1);
    begun[0]!.finish('done');
    await expect(Promise.all([first, second])).resolves.toEqual(['done', 'done']);
    expect(tasks.has('a')).toBe(true);
    await expect(tasks.ask('a', start)).resolves.toBe('done');
    expect(begun).toHaveLength(1);
  });

  it('are given up when the last who asked has left, and only then', () => {
    const tasks = new SharedTasks<string>(4);
    const { begun, start } = work();
    const [first, second] = [new AbortController(), new AbortController()];
    for (const { signal } of [first, second]) void tasks.ask('a', start, signal);
    first.abort();
    first.abort();
    expect(begun[0]!.signal.aborted).toBe(false);
    second.abort();
    expect(begun[0]!.signal.aborted).toBe(true);
    void tasks.ask('a', start);
    expect(begun).toHaveLength(2);
  });

  it('are cancelled whoever asks, and an asker that leaves late does not end those that came after', () => {
    const tasks = new SharedTasks<string>(4);
    const { begun, start } = work();
    const early = new AbortController();
    void tasks.ask('a', start, early.signal);
    tasks.cancel('a');
    expect(begun[0]!.signal.aborted).toBe(true);
    void tasks.ask('a', start);
    early.abort();
    expect(begun[1]!.signal.aborted).toBe(false);
  });

  it('that fail are told to all who asked and begin anew', async () => {
    const tasks = new SharedTasks<string>(4);
    const { begun, start } = work();
    const asked = [tasks.ask('a', start), tasks.ask('a', start)];
    begun[0]!.fail(new Error('no'));
    for (const result of asked) await expect(result).rejects.toThrow('no');
    void tasks.ask('a', start);
    expect(begun).toHaveLength(2);
  });

  it('keep the youngest results', async () => {
    const tasks = new SharedTasks<string>(2);
    for (const key of ['a', 'b']) await tasks.ask(key, () => Promise.resolve(key));
    await tasks.ask('a', () => Promise.resolve('again'));
    await tasks.ask('c', () => Promise.resolve('c'));
    expect(['a', 'b', 'c'].map((key) => tasks.has(key))).toEqual([true, false, true]);
  });
});
