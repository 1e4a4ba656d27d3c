import { sine, TIMING } from '../../../test/support/render';
import { effectById } from '../effects/registry';
import { resolveValues } from '../effects/resolve';
import { planClip, planStrip } from '../engine/plans';
import type { Plan } from '../engine/plan';
import { renderPlan } from '../engine/render';
import { readWav, writeWav } from '../formats/wav';
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
    const { bytes } = await runJob({ kind: 'print', plan, samples, range });
    expect(readWav(bytes, 'print').channels[0]).toEqual(direct.left);
    const bounced = await runJob({ kind: 'bounce', plan, samples, range, format: '32f', gainDb: -6 });
    const [left] = readWav(bounced.bytes, 'bounce').channels;
    expect(left![5000]! / direct.left[5000]!).toBeCloseTo(10 ** (-6 / 20), 5);
    expect([bounced.seconds, bounced.clipped]).toEqual([1.5, 0]);
  });

  it('tells loudness plan by plan, and that silence has none', async () => {
    const silent = { ...plan, strips: [planStrip('main')] };
    const [loud, none] = await runJob({ kind: 'loudness', plans: [plan, silent], samples, range });
    expect(loud).toBeGreaterThan(-40);
    expect(none).toBeNull();
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

  it('gives back all it holds when it is given up, and says why', async () => {
    const before = heapOfThread().free;
    const giveUp = () => {
      throw new Error('enough');
    };
    await expect(runJob({ kind: 'render', plan, samples, range }, giveUp)).rejects.toThrow('enough');
    const inserts = plan.strips[0]!.inserts;
    const picture = { kind: 'echogram', inserts, apart: true, sampleRateHz: RATE, seconds: 2, slots: 100 } as const;
    await expect(runJob(picture, giveUp)).rejects.toThrow('enough');
    expect(heapOfThread().free).toBe(before);
  });

  it('is known for every kind', () => {
    expect(Object.keys(JOBS).sort()).toEqual(
      ['bounce', 'decode', 'echogram', 'loudness', 'phrases', 'picture', 'prepare', 'print', 'render', 'room'].sort(),
    );
  });
});
