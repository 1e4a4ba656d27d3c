import { newDocument } from '@/core/session/records/factories';
import type { Asset } from '@/core/session/records/clips';
import type { SessionDocument } from '@/core/session/records/document';
import type { WorkerClient } from '@/runtime/client/workerClient';
import { SoundLoader, soundsToLoad, type SoundLoaderPort, type WantedSound } from './soundLoader';

const asset = (name: string, seconds: number): Asset => ({
  id: name.padEnd(64, '0'),
  name,
  frames: Math.round(seconds * 48000),
  sampleRateHz: 48000,
  channels: 2,
});

/** Clips by the sound they play and the beat at which they begin, at 60 beats a minute. */
function sessionOf(sounds: readonly Asset[], clips: readonly (readonly [string, number])[]): SessionDocument {
  const document = newDocument('Sounds');
  document.session.tempoBpm = 60;
  for (const one of sounds) document.assets[one.id] = one;
  clips.forEach(([name, startBeat], n) => {
    const sound = sounds.find((one) => one.name === name)!;
    document.clips[`c${n}`] = {
      id: `c${n}`,
      trackId: 't',
      source: { kind: 'sound', assetId: sound.id },
      name,
      startBeat,
      offsetSeconds: 0,
      lengthSeconds: sound.frames / 48000,
      gainDb: 0,
      fadeInSeconds: 0,
      fadeOutSeconds: 0,
      fadeInShape: 'smooth' as const,
      fadeOutShape: 'smooth' as const,
      reversed: false,
      mute: false,
    };
  });
  return document;
}

const names = (list: readonly WantedSound[]) => list.map(({ asset: { name } }) => name);

/** Decoders whose work ends when it is told to. */
function loaderOf(more: Partial<SoundLoaderPort> = {}) {
  const running = new Map<string, { end: () => void; begin: () => void; fail: () => void }>();
  const log: string[] = [];
  const decoder = (): WorkerClient => {
    const client = {
      load: 0,
      run: (task: { name: string }, { onBegun }: { onBegun: (l: Float32Array, r: Float32Array) => void }) =>
        new Promise((resolve, reject) => {
          client.load++;
          const sound = new Float32Array(4);
          running.set(task.name, {
            begin: () => onBegun(sound, sound),
            end: () => (client.load--, running.delete(task.name), resolve({ left: sound, right: sound })),
            fail: () => (client.load--, running.delete(task.name), reject(new Error('torn'))),
          });
          log.push(task.name);
        }),
    };
    return client as unknown as WorkerClient;
  };
  const sounds: string[] = [];
  const problems: unknown[] = [];
  let waiting: string[] = [];
  const loader = new SoundLoader([decoder(), decoder()], {
    fetchBytes: async () => new ArrayBuffer(4),
    openPages: () => null,
    onSound: (id) => sounds.push(id.replace(/0+$/, '')),
    onWaiting: (list) => (waiting = names(list)),
    onProblem: (error) => problems.push(error),
    ...more,
  });
  return { loader, running, log, sounds, problems, waiting: () => waiting };
}

const settle = () => new Promise((resolve) => setTimeout(resolve, 0));

describe('the order of sounds', () => {
  const all = [asset('long', 600), asset('bell', 3), asset('late', 3), asset('unused', 3), asset('voice', 8)];
  const document = sessionOf(all, [
    ['long', 0],
    ['bell', 0],
    ['voice', 4],
    ['late', 200],
  ]);

  it('is that of need, short before long, and leaves out what nothing plays', () => {
    expect(names(soundsToLoad(document, 0))).toEqual(['bell', 'voice', 'long', 'late']);
    expect(names(soundsToLoad(document, 190))[0]).toBe('late');
  });

  it('has what is asked for although nothing plays it', async () => {
    expect(names(soundsToLoad(document, 0, [all[3]!.id]))).toContain('unused');
    const { loader, log } = loaderOf();
    loader.ask([all[3]!.id]);
    loader.want(document, 0);
    await settle();
    expect(log).toContain('unused');
  });

  it('counts a frozen print as played', () => {
    const frozen = structuredClone(document);
    frozen.tracks.t = {
      id: 't',
      name: 'T',
      gainDb: 0,
      pan: 0,
      mute: false,
      solo: false,
      bypass: false,
      insertIds: [],
      outputId: 'main',
      frozen: 'p',
      panMode: 'balance',
      monoLimitDb: 4,
      placeId: null,
      oppositeOf: null,
    };
    frozen.session.trackIds = ['t'];
    frozen.prints.p = {
      id: 'p',
      recipe: { kind: 'strip', stripId: 't' },
      made: { assetId: all[3]!.id, fingerprint: '', landSeconds: 0 },
    };
    expect(names(soundsToLoad(frozen, 0))).toContain('unused');
  });
});

describe('loading', () => {
  it('leaves a way open for short sounds beside a long one, and says what is missing', async () => {
    const sounds = [asset('long', 600), asset('longer', 700), asset('a', 2), asset('b', 2), asset('c', 2)];
    const { loader, running, log, waiting } = loaderOf();
    loader.want(
      sessionOf(sounds, [
        ['long', 0],
        ['longer', 0],
        ['a', 500],
        ['b', 510],
        ['c', 520],
      ]),
      0,
    );
    await settle();
    expect(log).toEqual(['long', 'a']);
    expect(waiting()).toEqual(['long', 'a', 'longer', 'b', 'c']);
    for (const name of ['a', 'b', 'c']) {
      running.get(name)!.end();
      await settle();
      await settle();
    }
    expect(log).toEqual(['long', 'a', 'b', 'c']);
    expect(waiting()).toEqual(['long', 'longer']);
    running.get('long')!.end();
    await settle();
    await settle();
    expect(log.at(-1)).toBe('longer');
    running.get('longer')!.end();
    await settle();
    expect(waiting()).toEqual([]);
  });

  it('hands a sound over as soon as it begins to be there', async () => {
    const { loader, running, sounds, waiting } = loaderOf();
    loader.want(sessionOf([asset('long', 600)], [['long', 0]]), 0);
    await settle();
    running.get('long')!.begin();
    expect([sounds, waiting()]).toEqual([['long'], ['long']]);
  });

  it('tells what it cannot have once, and asks again when somebody plays', async () => {
    const { loader, running, problems, log } = loaderOf();
    const document = sessionOf([asset('torn', 2)], [['torn', 0]]);
    loader.want(document, 0);
    await settle();
    running.get('torn')!.fail();
    await settle();
    loader.want(document, 0);
    await settle();
    expect([problems.length, log]).toEqual([1, ['torn']]);
    loader.again(document, 0);
    await settle();
    expect(log).toEqual(['torn', 'torn']);
  });

  it('does not load a sound that was just brought in', async () => {
    const { loader, log, waiting } = loaderOf();
    const one = asset('voice', 2);
    loader.has(one.id);
    loader.want(sessionOf([one], [['voice', 0]]), 0);
    await settle();
    expect([log, waiting()]).toEqual([[], []]);
  });
});
