import '../wasm/embedded';
import fc from 'fast-check';
import { noise } from '../../../test/support/noise';
import { thinned } from '../../../test/support/sweep';
import { madeFile } from '../../../test/support/madeFile';
import { effectById } from '../effects/registry';
import { resolveValues } from '../effects/resolve';
import type { Plan, PlanClip } from '../engine/plan';
import { planClip, planStrip } from '../engine/plans';
import { KinetikonError } from '../errors';
import { bytesOf, type FileBytes } from '../formats/fileBytes';
import { BytesSink } from '../formats/fileSink';
import { writeFlac } from '../formats/flac';
import { openSeekable } from '../formats/seekable/seekable';
import { writeWav } from '../formats/wav';
import { PAGE_FRAMES } from '../pages/pagedSamples';
import { TIMING } from '../../../test/support/render';
import { runJob } from './jobs';
import type { JobInputs, PlayedSound, Task } from './kinds';

const RATE = 48000;
const FRAMES = 3.4 * PAGE_FRAMES;
const range = { fromFrame: 0.3 * RATE, toFrame: 6 * RATE, tailSeconds: 'auto' } as const;

const sides = noise(FRAMES, 2);
const mono = noise(FRAMES, 1);
let files: Readonly<Record<string, Uint8Array>>;
let wholes: readonly PlayedSound[];
const long: readonly PlayedSound[] = ['wav', 'flac'].map((assetId) => ({ assetId, name: assetId, isLong: true }));

beforeAll(async () => {
  files = {
    wav: writeWav({ sampleRateHz: RATE, channels: mono }, '24'),
    flac: await writeFlac({ sampleRateHz: 44100, channels: sides }, 24),
  };
  wholes = await Promise.all(
    Object.entries(files).map(async ([assetId, bytes]) => {
      const { left, right } = await runJob({
        ...{ kind: 'decode', bytes: bytes.slice().buffer as ArrayBuffer, name: assetId, sampleRateHz: RATE },
      });
      return { assetId, left, right };
    }),
  );
});

function planOf(clips: readonly PlanClip[]): Plan {
  const values = resolveValues(effectById('delay'), { mix: 40 }, TIMING);
  const inserts = [{ id: 'echo', effect: 'delay', bypass: false, values }];
  const strip = planStrip('main', { clips, inserts });
  return { sampleRate: RATE, framesPerBeat: RATE / 2, endFrame: 8 * RATE, loop: null, strips: [strip], edges: [] };
}

const place = (open: (assetId: string) => FileBytes = (assetId) => bytesOf(files[assetId]!)) => ({
  open: async ({ assetId }: { readonly assetId: string }) => (await openSeekable(open(assetId), assetId))!,
  sink: new BytesSink(),
});

const anyClip = fc.record({
  assetId: fc.constantFrom('wav', 'flac'),
  startFrame: fc.integer({ min: 0, max: 5 * RATE }),
  offsetFrame: fc.integer({ min: 0, max: 2 * RATE }),
  lengthFrames: fc.integer({ min: 10, max: 4 * RATE }),
  isReversed: fc.boolean(),
});

describe('long sounds in a render', () => {
  it('give the very file that whole ones give, and its levels', async () => {
    const property = fc.asyncProperty(fc.array(anyClip, { minLength: 1, maxLength: 5 }), async (drawn) => {
      const clips = drawn.map(({ isReversed, lengthFrames, ...clip }, n) =>
        planClip(`clip${n}`, lengthFrames, { ...clip, ...(isReversed ? { reversed: true } : {}) }),
      );
      const input = { kind: 'bounce', plan: planOf(clips), range, format: '24', gainDb: -1 } as const;
      const { bytes, ...facts } = await madeFile({ ...input, samples: wholes });
      const here = place();
      expect(await runJob({ ...input, samples: long }, undefined, here)).toEqual(facts);
      expect(Buffer.compare(here.sink.bytes, bytes)).toBe(0);
    });
    await fc.assert(property, { numRuns: thinned(24) });
  });

  it('are read as they are played: no more of a file is asked for than is heard', async () => {
    let read = 0;
    const counted = (assetId: string): FileBytes => ({
      size: files[assetId]!.length,
      read: async (from, to) => {
        read += Math.min(to, files[assetId]!.length) - from;
        return files[assetId]!.subarray(from, to);
      },
    });
    const plan = planOf([planClip('clip', RATE, { assetId: 'wav', startFrame: RATE, offsetFrame: 2 * PAGE_FRAMES })]);
    await runJob({ kind: 'levels', plan, range, samples: [long[0]!] }, undefined, place(counted));
    expect(read).toBeGreaterThan(3 * RATE);
    expect(read).toBeLessThan(files.wav!.length / 2);
  });

  it.each<Task['kind']>(['render', 'print', 'bounce', 'levels', 'portrait'])(
    'that cannot be read end a %s with the reason',
    async (kind) => {
      const broken = (): FileBytes => ({
        size: files.wav!.length,
        read: async (from, to) => {
          if (from > 300000) throw new KinetikonError('database.failed', 'The server does not answer.');
          return files.wav!.subarray(from, to);
        },
      });
      const plan = planOf([planClip('clip', FRAMES, { assetId: 'wav' })]);
      const task = { kind, plan, range, samples: [long[0]!], format: '24', gainDb: 0 } as Task;
      await expect(runJob(task, undefined, place(broken))).rejects.toThrow('The server does not answer.');
      await expect(runJob(task)).rejects.toThrow('wav cannot be read here.');
    },
  );
});

describe('a file that is made part by part', () => {
  const input: JobInputs['bounce'] = {
    plan: planOf([planClip('clip', FRAMES, { assetId: 'wav' })]),
    samples: long,
    range,
    format: '24',
    gainDb: 0,
  };

  it('ends with what its sink ends with', async () => {
    const full = { ...place(), sink: { write: () => Promise.reject(new Error('the disk is full')), end: () => {} } };
    for (const format of ['24', 'flac'] as const)
      await expect(runJob({ kind: 'bounce', ...input, format }, undefined, full)).rejects.toThrow('the disk is full');
  });

  it('comes in parts of less than a second', async () => {
    const parts: number[] = [];
    const sink = { write: (bytes: Uint8Array) => void parts.push(bytes.length), end: () => {} };
    await runJob({ kind: 'bounce', ...input }, undefined, { ...place(), sink });
    expect(parts.length).toBeGreaterThan(8);
    expect(Math.max(...parts)).toBeLessThan(RATE * 6);
  });
});
