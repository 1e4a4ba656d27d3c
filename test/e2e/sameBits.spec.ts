import { readFileSync } from 'node:fs';
import { expect } from '@playwright/test';
import { sumOf } from '../support/bytes';
import { test } from './server';
import { effectById } from '@/core/effects/registry';
import { resolveSettings, resolveValues } from '@/core/effects/resolve';
import { resourceFor } from '@/core/effects/resource';
import type { Plan, PlanEdge, PlanInsert, PlanSource } from '@/core/engine/plan';
import { Engine } from '@/core/engine/engine';
import { planStrip } from '@/core/engine/plans';
import { renderPlan } from '@/core/engine/render';
import { readSound } from '@/core/formats/readSound';
import { stereoOf } from '@/core/formats/sound';
import { readWav } from '@/core/formats/wav';
import { SeededRandom } from '@/core/math/random';
import { ENGINE_PROCESSOR, type EngineProcessorOptions } from '@/core/protocol/worklet';

const RATE = 48000;
const FRAMES = RATE * 4;

const insert = (id: string, effect: string, given: Record<string, number | string | boolean>): PlanInsert => {
  const spec = effectById(effect);
  const values = resolveValues(spec, given, { tempoBpm: 84, beatsPerBar: 3 });
  const settings = resolveSettings(spec, given);
  const resource = resourceFor(spec, RATE, values, settings);
  return { id, effect, bypass: false, values, ...(settings ? { settings } : {}), ...(resource ? { resource } : {}) };
};

/** Everything that reaches a sample: moving taps, filters, drive of each kind, noise, limiter, pan, fades. */
const plan: Plan = {
  sampleRate: RATE,
  framesPerBeat: (RATE * 60) / 84,
  endFrame: FRAMES,
  loop: null,
  strips: [
    ...['soft', 'hard', 'fold', 'asymmetric'].map((driveCurve, index) => ({
      id: `track-${index}`,
      gain: 0.6,
      pan: -0.9 + index * 0.6,
      stereoPan: index > 1,
      audible: true,
      clips: [
        {
          id: `clip-${index}`,
          assetId: 'noise',
          startFrame: index * 5000,
          offsetFrame: 300,
          lengthFrames: RATE,
          gain: 0.8,
          fadeInFrames: 700,
          fadeOutFrames: 9000,
        },
      ],
      inserts: [
        insert(`delay-${index}`, 'delay', {
          'lines.1.timeLeft': index % 2 ? '1/8d' : 41.3,
          'lines.1.feedback': 70,
          'lines.1.modDepth': 12,
          'lines.1.modRate': 3.7,
          'lines.1.modShape': ['sine', 'steppedRandom', 'smoothRandom', 'square'][index]!,
          'lines.1.modPhase': 77,
          'lines.1.cutoffModDepth': 1.5,
          'lines.1.filterType': 'bandPass',
          'lines.1.slope': '24',
          'lines.1.drive': 14,
          'lines.1.driveCurve': driveCurve,
          'lines.2.on': true,
          'lines.2.timeLeft': 2.7,
          'lines.2.modDepth': 60,
          routing: ['series', 'ring', 'parallel', 'pairs'][index]!,
          domain: index === 2 ? 'midSide' : 'leftRight',
          wear: ['off', 'tape', 'bucket', 'tape'][index]!,
          humOn: true,
          duckAmount: 6,
          safety: index === 3,
        }),
        insert(
          `wide-${index}`,
          index % 2 === 0 ? 'midside' : 'doubler',
          [
            { 'midToSide.gain': -6, 'midToSide.delay': 11, 'sideToMid.gain': -9, 'sideToMid.highCut': 3000, loop: 60 },
            { mode: 'copies', voices: '3', detune: 20, lowMono: 150, midScoop: 4 },
            { 'sideToSide.lowCut': 150, 'sideToSide.gain': 6, 'midToSide.gain': -12, autoLevel: true },
            { side: 'left', time: 9.3, detune: 30 },
          ][index] as Record<string, number | string | boolean>,
        ),
        insert(
          `place-${index}`,
          'place',
          [
            { render: 'binaural', ears: 80, motion: 'circle', motionRate: 2, doppler: 100, height: 1 },
            { motion: 'walk', motionRate: 3, motionSize: 4, distance: 6, size: 3, law: '4.5' },
            { render: 'binaural', motion: 'eight', motionRate: 1.3, size: 2, distance: 3, azimuth: -100 },
            { motion: 'path', motionRate: 0.9, motionEase: 60, air: 300, doppler: 50, mirror: 'side' },
          ][index] as Record<string, number | string | boolean>,
        ),
        {
          ...insert(
            `moving-${index}`,
            ['chorus', 'flanger', 'phaser', 'chorus'][index]!,
            [
              { bandLow: 300, window: '512', wear: 40, noise: 30 },
              { feedback: 60, throughZero: true, filterType: 'lowPass' },
              { feedback: -50, stages: '10' },
              { motion: 'grains', jitter: 60, randomPhase: 40 },
            ][index]!,
          ),
          modulations: [
            {
              id: 'swing',
              index: 1,
              ruler: { min: 0.5, max: 20, scale: 'log' as const },
              source: [
                { kind: 'oscillator', shape: 'smoothRandom', rateHz: 3, phase: 0.2, seed: 9 },
                { kind: 'pattern', steps: [1, -0.5, 0.2], rateHz: 7, phase: 0 },
                { kind: 'walk', rateHz: 2, phase: 0.5, seed: 4 },
                {
                  kind: 'follower',
                  inputs: { key: { stripId: 'track-0', tap: 'beforeFader' } },
                  attackSeconds: 0.01,
                  releaseSeconds: 0.1,
                  gainDb: 6,
                },
              ][index]! as PlanSource,
              depth: 0.3,
              polarity: 'both' as const,
              smoothingSeconds: 0.01,
            },
          ],
        },
        insert(`cut-${index}`, 'utility', { lowCut: 120, gain: -3 }),
        [
          {
            ...insert('tone', 'eq', { 'bands.1.on': true, 'bands.2.on': true, 'bands.2.gain': 6, 'bands.5.on': true }),
            curves: [{ index: 9, curve: { frames: [0, 60000], values: [200, 4000] } }],
          },
          insert('gate', 'gate', { threshold: -20, release: 30 }),
          insert('esses', 'deesser', { threshold: -40 }),
          insert('drive', 'saturator', { drive: 18, curve: 'asymmetric', lowCut: 100, highCut: 5000 }),
        ][index]!,
        insert(`snap-${index}`, 'transient', { attack: 40, sustain: -30 }),
      ],
    })),
    planStrip('echo', {
      inserts: [
        insert('return', 'delay', { mix: 100 }),
        insert('through', 'convolution', { impulse: 'closet', preDelay: 7, wetHigh: 3, mix: 70 }),
        {
          ...insert('space', 'reverb', {
            decay: 1.5,
            pitchAmount: 40,
            deEss: 8,
            wetLow: -4,
            envelopeAmount: 30,
            mix: 60,
          }),
          curves: [{ index: 6, curve: { frames: [0, 90000], values: [4, 40] } }],
        },
        {
          ...insert('duck', 'compressor', { threshold: -30, lookahead: 3, keyLowCut: 200 }),
          inputs: { key: { stripId: 'track-0', tap: 'beforeFader' } },
        },
        insert('drift', 'autopan', { shape: 'smoothRandom', rate: 3 }),
      ],
      curves: { pan: { frames: [0, 50000], values: [-1, 1] } },
    }),
    planStrip('voices', {
      gain: 0.5,
      inserts: [
        {
          ...insert('keys', 'synth', { unison: 3, filterDepth: 2, vibrato: 20, noise: 10, voices: 1, glide: 60 }),
          notes: [50, 57, 53].map((key, n) => ({
            startFrame: 2000 + 40000 * n,
            lengthFrames: 39000,
            key,
            velocity: 0.8,
          })),
        },
        insert('sing', 'harmony', { scale: 'dorian', key: 'D', 'voices.1.humanize': 60, snap: 50, snapSpeed: 30 }),
        insert('chords', 'harmony', { method: 'polyphonic', 'voices.1.follow': 'interval', mix: 40 }),
        insert('speak', 'vocoder', {
          noteSource: 'follow',
          bands: 31,
          order: '6',
          formantShift: 3,
          sibilance: -20,
          mix: 60,
        }),
      ],
    }),
    planStrip('main', { inserts: [insert('limiter', 'limiter', { gain: 9, ceiling: -2 })] }),
  ],
  edges: [0, 1, 2, 3]
    .flatMap((index): PlanEdge[] => [
      { id: `out-${index}`, fromId: `track-${index}`, toId: 'main', tap: 'afterFader', gain: 1 },
      {
        id: `send-${index}`,
        fromId: `track-${index}`,
        toId: 'echo',
        tap: 'beforeFader',
        gain: 0.4,
        curve: { frames: [0, 20000, 20000, 60000], values: [0, 0.7, 0.1, 1] },
      },
    ])
    .concat(
      ['echo', 'voices'].map((fromId) => ({ id: `out-${fromId}`, fromId, toId: 'main', tap: 'afterFader', gain: 1 })),
    ),
};

function noise(): number[] {
  const random = new SeededRandom(5);
  return Array.from({ length: RATE * 2 }, () => Math.fround(0.5 * random.bipolar()));
}

test('one plan gives the same bits in Node, in the worker and in the audio worklet', async ({ page }) => {
  const samples = noise();
  const sound = Float32Array.from(samples);
  const inNode = renderPlan(plan, new Map([['noise', { left: sound, right: sound }]]), {
    fromFrame: 0,
    toFrame: FRAMES,
    tailSeconds: 0,
  })!;
  expect(inNode.left.some((x) => Math.abs(x) > 0.3)).toBe(true);

  await page.goto('/');
  const inBrowser = await page.evaluate(
    async ({ plan, samples, frames, processor }) => {
      const shared = new Float32Array(new SharedArrayBuffer(samples.length * 4));
      shared.set(samples);
      const encode = (bytes: Uint8Array) => {
        let text = '';
        for (let at = 0; at < bytes.length; at += 32768) text += String.fromCharCode(...bytes.subarray(at, at + 32768));
        return btoa(text);
      };

      const kernels = await WebAssembly.compileStreaming(fetch('/audio/kernels.wasm'));
      const worker = new Worker('/audio/worker.js', { type: 'module' });
      worker.postMessage({ kernels });
      const through = plan.strips.flatMap(({ inserts }) => inserts).find(({ id }) => id === 'through')!;
      const prepared = await new Promise<readonly Float32Array[]>((resolve, reject) => {
        worker.onmessage = ({ data }) => {
          if (data.kind === 'result') resolve(data.result);
          if (data.kind === 'error') reject(new Error(data.message));
        };
        worker.postMessage({ id: 2, task: { kind: 'prepare', insert: through, sampleRateHz: 48000, sound: null } });
      });
      const bounced = await new Promise<Uint8Array>((resolve, reject) => {
        worker.onmessage = ({ data }) => {
          if (data.kind === 'result') resolve(new Response(data.file).bytes());
          if (data.kind === 'error') reject(new Error(data.message));
        };
        const task = {
          kind: 'bounce',
          plan,
          samples: [{ assetId: 'noise', left: shared, right: shared }],
          range: { fromFrame: 0, toFrame: frames, tailSeconds: 0 },
          format: '32f',
          gainDb: 0,
        };
        worker.postMessage({ id: 1, task });
      });

      const context = new OfflineAudioContext(2, frames + 8192, 48000);
      await context.audioWorklet.addModule('/audio/worklet.js');
      const meters = new Float64Array(new SharedArrayBuffer(8192));
      const node = new AudioWorkletNode(context, processor, {
        numberOfInputs: 0,
        outputChannelCount: [2],
        processorOptions: {
          meters: meters.buffer as SharedArrayBuffer,
          kernels,
          frame: 0,
        } satisfies EngineProcessorOptions,
      });
      node.connect(context.destination);
      node.port.postMessage({ kind: 'samples', assetId: 'noise', left: shared, right: shared });
      node.port.postMessage({ kind: 'resource', key: through.resource!.key, prepared });
      node.port.postMessage({ kind: 'plan', plan: { ...plan, order: plan.strips.map(({ id }) => id) } });
      node.port.postMessage({ kind: 'play' });
      node.port.postMessage({ kind: 'plan', plan: { ...plan, order: plan.strips.map(({ id }) => id) } });
      const PLANS = 6;
      const LATENCY = 2;
      for (let turn = 0; turn < 400 && meters[PLANS] !== 2; turn++)
        await new Promise((resolve) => setTimeout(resolve, 25));
      if (meters[PLANS] !== 2) throw new Error('the worklet did not take the plan up');
      const live = await context.startRendering();
      const latency = meters[LATENCY]!;
      const cut = (channel: number) =>
        new Uint8Array(live.getChannelData(channel).slice(latency, latency + frames).buffer);
      return { bounced: encode(bounced), left: encode(cut(0)), right: encode(cut(1)), latency };
    },
    { plan, samples, frames: FRAMES, processor: ENGINE_PROCESSOR },
  );

  const floats = (text: string) => new Float32Array(new Uint8Array(Buffer.from(text, 'base64')).buffer);
  const engine = new Engine(RATE);
  engine.applyPlan(plan);
  expect(inBrowser.latency).toBe(engine.latencyFrames);
  expect(engine.latencyFrames).toBeGreaterThan(492);
  expect(engine.latencyFrames).toBeLessThan(8192);
  const worker = readWav(new Uint8Array(Buffer.from(inBrowser.bounced, 'base64')), 'bounce').channels;
  const expected = sumOf(inNode.left, inNode.right);
  expect(sumOf(worker[0]!, worker[1]!)).toBe(expected);
  expect(sumOf(floats(inBrowser.left), floats(inBrowser.right))).toBe(expected);
});

test('compressed sounds are decoded to the same bits in the browser as in Node', async ({ page }) => {
  const names = ['24.flac', 'variable.mp3', 'mono.mp3', 'stereo.ogg', 'stereo.opus'];
  await page.goto('/');
  for (const name of names) {
    const bytes = new Uint8Array(readFileSync(`test/fixtures/sounds/${name}`));
    const inBrowser = await page.evaluate(
      async ({ name, bytes }) => {
        const worker = new Worker('/audio/worker.js', { type: 'module' });
        worker.postMessage({ kernels: await WebAssembly.compileStreaming(fetch('/audio/kernels.wasm')) });
        return new Promise<{ left: number[]; right: number[] }>((resolve, reject) => {
          worker.onmessage = ({ data }) => {
            if (data.kind === 'result')
              resolve({ left: Array.from(data.result.left), right: Array.from(data.result.right) });
            if (data.kind === 'error') reject(new Error(data.message));
          };
          const task = { kind: 'decode', bytes: new Uint8Array(bytes).buffer, name, sampleRateHz: 48000 };
          worker.postMessage({ id: 1, task });
        });
      },
      { name, bytes: [...bytes] },
    );
    const { left, right } = stereoOf(await readSound(bytes, name));
    expect(left.length).toBeGreaterThan(2000);
    expect([name, sumOf(Float32Array.from(inBrowser.left), Float32Array.from(inBrowser.right))]).toEqual([
      name,
      sumOf(left, right),
    ]);
  }
});
