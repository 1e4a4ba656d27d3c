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
    await expect(Promise.all([first.result, second.result])).resolves.toEqual(['done', 'done']);
    expect(tasks.has('a')).toBe(true);
    await expect(tasks.ask('a', start).result).resolves.toBe('done');
    expect(begun).toHaveLength(1);
  });

  it('are given up when the last who asked has left, and only then', () => {
    const tasks = new SharedTasks<string>(4);
    const { begun, start } = work();
    const first = tasks.ask('a', start);
    const second = tasks.ask('a', start);
    first.leave();
    first.leave();
    expect(begun[0]!.signal.aborted).toBe(false);
    second.leave();
    expect(begun[0]!.signal.aborted).toBe(true);
    tasks.ask('a', start);
    expect(begun).toHaveLength(2);
  });

  it('that fail are told to all who asked and begin anew', async () => {
    const tasks = new SharedTasks<string>(4);
    const { begun, start } = work();
    const asked = [tasks.ask('a', start), tasks.ask('a', start)];
    begun[0]!.fail(new Error('no'));
    for (const { result } of asked) await expect(result).rejects.toThrow('no');
    tasks.ask('a', start);
    expect(begun).toHaveLength(2);
  });

  it('keep the youngest results', async () => {
    const tasks = new SharedTasks<string>(2);
    for (const key of ['a', 'b']) await tasks.ask(key, () => Promise.resolve(key)).result;
    await tasks.ask('a', () => Promise.resolve('again')).result;
    await tasks.ask('c', () => Promise.resolve('c')).result;
    expect(['a', 'b', 'c'].map((key) => tasks.has(key))).toEqual([true, false, true]);
  });
});
