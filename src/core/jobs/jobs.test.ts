import { madeFile } from '../../../test/support/madeFile';
import { readFileSync } from 'node:fs';
import { largest, sine, TIMING } from '../../../test/support/render';
import { effectById } from '../effects/registry';
import { resolveValues } from '../effects/resolve';
import { planClip, planStrip } from '../engine/plans';
import type { Plan } from '../engine/plan';
import { renderPlan } from '../engine/render';
import { readSound } from '../formats/readSound';
import { readWav, writeWav } from '../formats/wav';
import { measureRoom } from '../dsp/decay';
import { heapOfThread } from '../wasm/arena';
import { JOBS, runJob } from './jobs';
import type { JobStep } from './kinds';

const RATE = 48000;
const tone = sine(440, RATE, RATE, 0.25);
const plan: Plan = {
  sampleRate: RATE,
  framesPerBeat: 24000,
  endFrame: RATE,
  loop: null,
  strips: [
    planStrip('main', {
      clips: [planClip('tone', RATE)],
      inserts: [
        { id: 'd', effect: 'delay', bypass: false, values: resolveValues(effectById('delay'), { mix: 50 }, TIMING) },
      ],
    }),
  ],
  edges: [],
};
const samples = [{ assetId: 'tone', left: tone, right: tone }];
const range = { fromFrame: 0, toFrame: RATE, tailSeconds: 0.5 };
const direct = renderPlan(plan, new Map([['tone', { left: tone, right: tone }]]), range)!;

describe('a job', () => {
  it('renders the very bits of the engine and tells how far it is', async () => {
    const steps: JobStep[] = [];
    const out = await runJob({ kind: 'render', plan, samples, range }, (step) => void steps.push(step));
    expect(out.left).toEqual(direct.left);
    expect(steps.length).toBeGreaterThan(1);
    expect(steps).toEqual([...(steps as number[])].sort((a, b) => a - b));
  });

  it('writes prints whole and bounces with their level, each as a file', async () => {
    const { bytes } = await madeFile({ kind: 'print', plan, samples, range });
    expect(readWav(bytes, 'print').channels[0]).toEqual(direct.left);
    const bounced = await madeFile({ kind: 'bounce', plan, samples, range, format: '32f', gainDb: -6 });
    const [left] = readWav(bounced.bytes, 'bounce').channels;
    expect(left![5000]! / direct.left[5000]!).toBeCloseTo(10 ** (-6 / 20), 5);
    expect([bounced.seconds, bounced.clipped]).toEqual([1.5, 0]);
  });

  it('bounces until 50 ms after the last sound of a tail, and the whole of a range', async () => {
    const spanOf = async (tailSeconds: number | 'auto', strips = plan.strips) => {
      const input = { plan: { ...plan, strips }, samples, range: { ...range, tailSeconds }, format: '32f', gainDb: 0 };
      const { bytes } = await madeFile({ kind: 'bounce', ...input } as never);
      return readWav(bytes, 'bounce').channels[0]!;
    };
    const auto = await spanOf('auto');
    let last = auto.length - 1;
    while (Math.abs(auto[last]!) < 1e-5) last--;
    expect(auto.length - 1 - last).toBe(RATE / 20);
    expect(auto.length).toBeGreaterThan(RATE);
    expect((await spanOf(3)).length).toBe(4 * RATE);
    expect((await spanOf('auto', [planStrip('main')])).length).toBe(RATE);
  });

  it('tells the levels of a plan, and that silence has none', async () => {
    const silent = { ...plan, strips: [planStrip('main')] };
    const loud = await runJob({ kind: 'levels', plan, samples, range });
    expect(loud.loudnessLufs).toBeGreaterThan(-40);
    expect(loud.peakDb! - loud.rmsDb!).toBeGreaterThan(2);
    const none = await runJob({ kind: 'levels', plan: silent, samples, range });
    expect([none.loudnessLufs, none.truePeakDb, none.correlation]).toEqual([null, null, null]);
  });

  it('decodes FLAC as it comes: its beginning can be heard at once, and all of it is what the file holds', async () => {
    const file = readFileSync('demo/sounds/reed-organ.flac');
    const wanted = await readSound(new Uint8Array(file), 'reed-organ.flac');
    const task = (bytes: Uint8Array<ArrayBuffer>) =>
      ({ kind: 'decode', bytes: bytes.slice().buffer, name: 'reed-organ.flac', sampleRateHz: 48000 }) as const;
    let begun: { left: Float32Array; right: Float32Array } | null = null;
    const seen: number[] = [];
    const done = await runJob(task(new Uint8Array(file)), (step) => {
      if (typeof step !== 'number') begun = step;
      else seen.push(begun!.left.findLastIndex((x) => x !== 0) / begun!.left.length);
    });
    expect(begun!.left).toBe(done.left);
    expect(done.left.every((x, n) => x === wanted.channels[0]![n])).toBe(true);
    expect(done.right.every((x, n) => x === wanted.channels[1]![n])).toBe(true);
    expect(seen.length).toBeGreaterThan(10);
    expect(seen[0]).toBeGreaterThan(0);
    expect(seen[0]).toBeLessThan(0.2);
    await expect(runJob(task(new Uint8Array(file.subarray(0, 300000))))).rejects.toThrow('the file was cut short');
    const before = heapOfThread().freeBytes;
    const giveUp = (step: JobStep) => {
      if (typeof step === 'number') throw new Error('enough');
    };
    await expect(runJob(task(new Uint8Array(file)), giveUp)).rejects.toThrow('enough');
    expect(heapOfThread().freeBytes).toBe(before);
  });

  it('decodes a sound into memory that is there before it is full', async () => {
    const file = writeWav({ sampleRateHz: 44100, channels: [sine(100, 44100, 88200, 0.5)] }, '24');
    const begun: JobStep[] = [];
    const out = await runJob(
      { kind: 'decode', bytes: file.buffer as ArrayBuffer, name: 'tone.wav', sampleRateHz: RATE },
      (step) => void begun.push(step),
    );
    const first = begun.find((step) => typeof step === 'object');
    expect([first?.left === out.left, out.left === out.right, out.left.length]).toEqual([true, true, 96000]);
    expect([out.originalFrames, out.originalRateHz, out.channels]).toEqual([88200, 44100, 1]);
  });

  it('decodes what is heard of more than two channels, at once and resampled', async () => {
    const channels = [200, 300, 400, 500].map((hz) => sine(hz, RATE, 4800, 0.2));
    const file = writeWav({ sampleRateHz: RATE, channels }, '32f').buffer as ArrayBuffer;
    const task = (heard: string | undefined, sampleRateHz: number) =>
      ({ kind: 'decode', bytes: file, name: 'four.wav', sampleRateHz, heard }) as const;
    const quad = await runJob(task('fold-51', RATE));
    quad.left.forEach((x, n) => expect(x).toBeCloseTo(channels[0]![n]! + Math.SQRT1_2 * channels[2]![n]!, 6));
    quad.right.forEach((x, n) => expect(x).toBeCloseTo(channels[1]![n]! + Math.SQRT1_2 * channels[3]![n]!, 6));
    expect(quad.more).toBeUndefined();
    const one = await runJob(task('take-4', RATE));
    expect([one.left === one.right, one.left]).toEqual([true, channels[3]]);
    const other = await runJob(task('take-3-1', 44100));
    const whole = await runJob(task(undefined, 44100));
    expect([other.left, other.right]).toEqual([whole.more![0], whole.left]);
  });

  it('checks a long sound in parts, leaves any other to be decoded, and refuses a long one that is cut short', async () => {
    const seconds = (count: number) =>
      writeWav({ sampleRateHz: 8000, channels: [new Float32Array(8000 * count)] }, '16');
    const scan = (bytes: Uint8Array) =>
      runJob({ kind: 'scan', file: new Blob([bytes as BlobPart]), name: 'tide', longerThanSeconds: 60 });
    expect(await scan(seconds(61))).toEqual({ isLong: true });
    expect(await scan(seconds(60))).toEqual({ isLong: false });
    expect(await scan(readFileSync('test/fixtures/sounds/constant.mp3'))).toEqual({ isLong: false });
    await expect(scan(seconds(61).subarray(0, 900000))).rejects.toThrow('the file was cut short');
  });

  it('gives back all it holds when it is given up, and says why', async () => {
    const before = heapOfThread().freeBytes;
    const giveUp = () => {
      throw new Error('enough');
    };
    await expect(runJob({ kind: 'render', plan, samples, range }, giveUp)).rejects.toThrow('enough');
    const inserts = plan.strips[0]!.inserts;
    const picture = { kind: 'echogram', inserts, apart: true, sampleRateHz: RATE, seconds: 2, slots: 100 } as const;
    await expect(runJob(picture, giveUp)).rejects.toThrow('enough');
    expect(heapOfThread().freeBytes).toBe(before);
  });

  it('is known for every kind', () => {
    expect(Object.keys(JOBS).sort()).toEqual(
      [
        ...[
          'about',
          'bounce',
          'chords',
          'decode',
          'echogram',
          'impulse',
          'levels',
          'listening',
          'lowSpectrum',
          'match',
          'onsets',
          'pitch',
        ],
        ...[
          'phrases',
          'picture',
          'portrait',
          'prepare',
          'print',
          'recover',
          'salvage',
          'render',
          'repair',
          'room',
          'scan',
          'sweep',
          'swell',
          'unpack',
        ],
      ].sort(),
    );
  });

  it('measures a simulated place by a sweep: the impulse of the room, and what the clocks are off by', async () => {
    const settings = { seconds: 2, fromHz: 40, toHz: 18000, levelDb: -6, decaySeconds: 1.5 };
    const recording = { placeId: 'rehearsal', noiseDb: -70, clockPpm: 40 };
    const found = await runJob({ kind: 'recover', settings, sampleRateHz: RATE, recording });
    expect(Math.abs(found.clockPpm - 40)).toBeLessThan(1);
    expect(readWav(found.bytes, 'impulse').channels).toHaveLength(2);
    const own = await runJob({ kind: 'impulse', from: { kind: 'shipped', id: 'rehearsal' }, sampleRateHz: RATE });
    const decay = measureRoom([own.left, own.right], RATE).t30!;
    expect(found.room.t30! / decay).toBeCloseTo(1, 1);
    const signal = readWav((await runJob({ kind: 'sweep', settings, sampleRateHz: RATE })).bytes, 'sweep');
    expect(signal.channels[0]!.length).toBe(Math.round((0.25 + 1 + 3.5 + 1) * RATE));
  });

  it('works an impulse out of a simulator, as loud as a file can be, and tells how far it is', async () => {
    const steps: JobStep[] = [];
    const from = { kind: 'simulated' as const, simulator: 'box', values: { width: 3, length: 4 }, seed: 2 };
    const made = await runJob({ kind: 'impulse', from, sampleRateHz: RATE }, (step) => void steps.push(step));
    const { channels } = readWav(made.bytes, 'box');
    expect(Math.max(...channels.map((one) => largest(one)))).toBeCloseTo(0.9, 3);
    expect(steps.length).toBeGreaterThan(3);
  });
});
