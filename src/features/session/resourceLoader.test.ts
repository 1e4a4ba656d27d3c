import type { PlanInsert, Samples } from '@/core/engine/plan';
import { ResourceLoader, type ResourceHost } from './resourceLoader';

const insert = (id: string, key: string, assetId: string | null = null): PlanInsert => ({
  id,
  effect: 'steady',
  bypass: false,
  values: [],
  resource: { key, assetId },
});

function host(needed: readonly PlanInsert[], fails: readonly string[] = []) {
  const there = new Map<string, unknown>();
  const sounds = new Map<string, Samples>();
  const asked: { key: string; sound: Samples | null }[] = [];
  const waiting: string[][] = [];
  const problems: unknown[] = [];
  const it: ResourceHost = {
    engine: {
      missingResources: () => needed.filter(({ resource }) => !there.has(resource!.key)),
      setResource: (key, prepared) => void there.set(key, prepared),
    },
    worker: {
      run: (async ({ insert: one, sound }: { insert: PlanInsert; sound: Samples | null }) => {
        asked.push({ key: one.resource!.key, sound });
        if (fails.includes(one.resource!.key)) throw new Error('too long');
        return [];
      }) as never,
    },
    sampleRateHz: () => 48000,
    soundOf: (id) => sounds.get(id),
    onWaiting: (ids) => waiting.push([...ids]),
    onProblem: (error) => problems.push(error),
  };
  return { loader: new ResourceLoader(it), there, sounds, asked, waiting, problems };
}

describe('what effects work with', () => {
  it('is prepared one after the other, once each, and said to be waited for', async () => {
    const { loader, there, asked, waiting } = host([insert('a', 'k1'), insert('b', 'k2')]);
    await Promise.all([loader.look(), loader.look()]);
    expect(asked.map(({ key }) => key)).toEqual(['k1', 'k2']);
    expect([...there.keys()]).toEqual(['k1', 'k2']);
    expect(waiting).toEqual([['a', 'b'], ['b'], []]);
  });

  it('waits for its sound to come in', async () => {
    const { loader, sounds, asked } = host([insert('a', 'k1', 'sound')]);
    await loader.look();
    expect(asked).toEqual([]);
    const sound = { left: new Float32Array(2), right: new Float32Array(2) };
    sounds.set('sound', sound);
    await loader.look();
    expect(asked).toEqual([{ key: 'k1', sound }]);
  });

  it('is given up when it cannot be prepared, with the reason, and holds up nothing else', async () => {
    const { loader, problems, there, waiting } = host([insert('a', 'k1'), insert('b', 'k2')], ['k1']);
    await loader.look();
    await loader.look();
    expect(problems).toHaveLength(1);
    expect([...there.keys()]).toEqual(['k2']);
    expect(waiting.at(-1)).toEqual(['a']);
  });
});
