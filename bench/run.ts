/**
 * Real-time factors (seconds of sound rendered in a second) on one core, and what they are made of. Prints a table and
 * writes docs/benchmarks.md with `--write`. Ratios within one run are what to compare: machines differ.
 */
import '../src/core/wasm/embedded';
import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { cpus } from 'node:os';
import { renderSwell } from '../src/core/swells/renderSwell';
import { lineEchograms } from '../src/core/analysis/echogram';
import { impulseSpectra } from '../src/core/dsp/impulseSpectra';
import { resample } from '../src/core/dsp/resampler';
import { MAXIMUM_BLOCK, DEFAULT_MUSICAL_CONTEXT, type Kernel } from '../src/core/effects/kernel';
import { KERNELS } from '../src/core/effects/kernels.generated';
import { PREPARERS } from '../src/core/effects/preparers.generated';
import { EFFECTS, effectById, specOf } from '../src/core/effects/registry';
import { resolveSettings, resolveValues } from '../src/core/effects/resolve';
import type { ParameterValues } from '../src/core/effects/spec';
import { Engine } from '../src/core/engine/engine';
import { type Plan, type PlanInsert, type PlanKey, type Samples } from '../src/core/engine/plan';
import { changesBetween, deltaOf, withDelta } from '../src/core/engine/planChanges';
import { planClip, planStrip } from '../src/core/engine/plans';
import { renderPlan } from '../src/core/engine/render';
import { readSound } from '../src/core/formats/readSound';
import { stereoOf } from '../src/core/formats/sound';
import { SeededRandom } from '../src/core/math/random';
import { LIVE_BLOCK } from '../src/core/protocol/worklet';
import { applyCommand, type Command } from '../src/core/session/commands';
import { compile, Compiler } from '../src/core/session/compile/compiler';
import { Arena, heapOfThread } from '../src/core/wasm/arena';
import { validateDocument } from '../src/core/session/document';
import { newDocument } from '../src/core/session/records/factories';
import { browserConvolution } from './browserConvolution';

const RATE = 48000;
const TIMING = { tempoBpm: 84, beatsPerBar: 3 };
const rows: [string, string, string][] = [];
const blockRows: string[][] = [];
/** Convolutions that were measured, by seconds of their impulse. */
const convolved: (readonly [seconds: number, factor: number])[] = [];
/** Only what has this in its name: `npm run bench -- --only chorus`. */
const only = process.argv.includes('--only') ? process.argv[process.argv.indexOf('--only') + 1]! : '';
const wanted = (name: string) => name.includes(only);

/** Each row is measured for at least this long: others who use the machine come and go. */
const SECONDS = 4;

/** The best of some runs: what the machine can do when nobody disturbs it. */
function best(runs: number, work: () => void): number {
  let least = Infinity;
  const first = performance.now();
  for (let run = 0; run < runs || (runs > 0 && performance.now() - first < 1000 * SECONDS); run++) {
    const began = performance.now();
    work();
    least = Math.min(least, (performance.now() - began) / 1000);
  }
  return least;
}

/** @param begin what is played on it beforehand */
function kernel(
  name: string,
  effect: string,
  values: ParameterValues,
  aim = '',
  begin: (unit: Kernel) => void = () => {},
): void {
  if (!wanted(name)) return;
  const random = new SeededRandom(1);
  const seconds = 2;
  const left = Float32Array.from({ length: LIVE_BLOCK }, () => 0.3 * random.bipolar());
  const right = left.slice();
  const spec = effectById(effect);
  const made = {
    sampleRate: RATE,
    values: resolveValues(spec, values, TIMING),
    settings: resolveSettings(spec, values) ?? {},
  };
  const unit = KERNELS[effect]!({ ...made, music: DEFAULT_MUSICAL_CONTEXT, memory: new Arena() });
  if (spec.prepares) unit.setResource!(PREPARERS[effect]!({ ...made, sound: null }));
  begin(unit);
  const memory = new Arena();
  const [blockLeft, blockRight] = [memory.floats(LIVE_BLOCK), memory.floats(LIVE_BLOCK)];
  const time = best(8, () => {
    for (let block = 0; block < (seconds * RATE) / LIVE_BLOCK; block++) {
      blockLeft.set(left);
      blockRight.set(right);
      unit.process(blockLeft, blockRight, LIVE_BLOCK);
    }
  });
  rows.push([name, (seconds / time).toFixed(seconds / time < 10 ? 1 : 0), aim]);
}

/** Microseconds of single blocks of an effect, the least of some runs, and what it holds. */
function spread(name: string, unit: Kernel, free: number): number {
  const random = new SeededRandom(4);
  const left = Float32Array.from({ length: LIVE_BLOCK }, () => 0.3 * random.bipolar());
  const right = left.slice();
  const memory = new Arena();
  const [l, r] = [memory.floats(LIVE_BLOCK), memory.floats(LIVE_BLOCK)];
  // Four times the longest part of a convolution, so that all kinds come round.
  const count = 4 * 64;
  const times = new Float64Array(count).fill(Infinity);
  for (let run = 0; run < 24; run++) {
    for (let block = 0; block < count; block++) {
      l.set(left);
      r.set(right);
      const began = performance.now();
      unit.process(l, r, LIVE_BLOCK);
      times[block] = Math.min(times[block]!, 1000 * (performance.now() - began));
    }
  }
  const sum = times.reduce((all, one) => all + one, 0);
  times.sort();
  const at = (part: number) => times[Math.min(count - 1, Math.floor(part * count))]!;
  memory.free();
  const held = (free - heapOfThread().freeBytes) / 1048576;
  const figures = [at(0.5), at(0.99), at(0.999), at(1)].map((time) => time.toFixed(0));
  blockRows.push([name, ...figures, (at(1) / at(0.5)).toFixed(2), held.toFixed(0)]);
  return (count * LIVE_BLOCK) / RATE / (sum / 1e6);
}

function noiseImpulse(seconds: number): [Float32Array, Float32Array] {
  const random = new SeededRandom(2);
  const side = () =>
    Float32Array.from({ length: seconds * RATE }, (_, n) => random.bipolar() * Math.exp((-4 * n) / RATE / seconds));
  return [side(), side()];
}

/** A convolution with a stereo impulse of noise. */
function convolution(seconds: number, aim: string): void {
  const name = `convolution, ${seconds} s in stereo`;
  if (!wanted(name)) return;
  const free = heapOfThread().freeBytes;
  const unit = KERNELS.convolution!({
    sampleRate: RATE,
    values: resolveValues(specOf('convolution'), { mix: 100 }, TIMING),
    settings: resolveSettings(specOf('convolution'), {}) ?? {},
    music: DEFAULT_MUSICAL_CONTEXT,
    memory: new Arena(),
  });
  unit.setResource!(impulseSpectra(noiseImpulse(seconds)));
  const factor = spread(name, unit, free);
  rows.push([name, factor.toFixed(0), aim]);
  convolved.push([seconds, factor]);
}

/** Speed of the browser's own convolver with the same impulses. */
async function browserConvolutions(): Promise<void> {
  for (const [seconds, ours] of convolved) {
    const theirs = await browserConvolution(noiseImpulse(seconds), RATE);
    const times = (ours / theirs).toFixed(1);
    rows.push([`the browser's own convolver, ${seconds} s: ours is ${times} times as fast`, theirs.toFixed(0), '']);
  }
}

/** @param begin what it is told first */
function blocksOf(
  name: string,
  effect: string,
  values: ParameterValues,
  begin: (unit: Kernel) => void = () => {},
): void {
  if (!wanted(name)) return;
  const spec = effectById(effect);
  const free = heapOfThread().freeBytes;
  const unit = KERNELS[effect]!({
    sampleRate: RATE,
    values: resolveValues(spec, values, TIMING),
    settings: resolveSettings(spec, values) ?? {},
    music: DEFAULT_MUSICAL_CONTEXT,
    memory: new Arena(),
  });
  begin(unit);
  spread(name, unit, free);
}

/** 24 tracks, 8 returns and 60 effects: each track with two, each return with one or two, keyed and sent about. */
function largeMix(): { plan: Plan; samples: Map<string, Samples>; seconds: number } {
  const seconds = 10;
  const random = new SeededRandom(3);
  const sound = Float32Array.from(
    { length: seconds * RATE },
    (_, n) => 0.2 * random.bipolar() * Math.exp(-(n % 24000) / 6000),
  );
  const insert = (id: string, effect: string, values: ParameterValues, key: PlanKey | null = null): PlanInsert => ({
    id,
    effect,
    bypass: false,
    values: resolveValues(effectById(effect), values, TIMING),
    ...(key ? { inputs: { key } } : {}),
  });
  const clip = (id: string) => planClip(id, seconds * RATE, { assetId: 'sound' });
  const tone = { 'bands.1.on': true, 'bands.2.on': true, 'bands.2.gain': -3 };
  const effects = ['compressor', 'gate', 'deesser', 'transient', 'autopan', 'utility'];
  const tracks = Array.from({ length: 24 }, (_, n) =>
    planStrip(`track-${n}`, {
      clips: [clip(`clip-${n}`)],
      inserts: [insert(`tone-${n}`, 'eq', tone), insert(`second-${n}`, effects[n % effects.length]!, {})],
      gain: 0.3,
      pan: (n - 12) / 12,
    }),
  );
  const returns = Array.from({ length: 8 }, (_, n) =>
    planStrip(`return-${n}`, {
      inserts: [
        insert(`echo-${n}`, 'delay', { mix: 100 }),
        ...(n < 3 ? [insert(`duck-${n}`, 'compressor', {}, { stripId: `track-${n}`, tap: 'beforeFader' })] : []),
      ],
    }),
  );
  const main = planStrip('main', { inserts: [insert('limit', 'limiter', {})] });
  const edge = (fromId: string, toId: string, gain: number) =>
    ({ id: `${fromId}>${toId}`, fromId, toId, tap: 'afterFader', gain }) as const;
  const edges = [
    ...[...tracks, ...returns].map(({ id }) => edge(id, 'main', 1)),
    ...tracks.flatMap(({ id }, n) => [edge(id, `return-${n % 8}`, 0.3), edge(id, `return-${(n + 3) % 8}`, 0.2)]),
  ];
  const plan: Plan = {
    sampleRate: RATE,
    framesPerBeat: (RATE * 60) / TIMING.tempoBpm,
    endFrame: seconds * RATE,
    loop: null,
    strips: [...tracks, ...returns, main],
    edges,
  };
  return { plan, samples: new Map([['sound', { left: sound, right: sound }]]), seconds };
}

/** Milliseconds of each block of a plan, the least of some runs, in order of size; and what the engine holds in bytes. */
function blockTimes(plan: Plan, samples: Map<string, Samples>, runs: number): { times: Float64Array; bytes: number } {
  const blocks = Math.floor(plan.endFrame / LIVE_BLOCK);
  const times = new Float64Array(blocks).fill(Infinity);
  const left = new Float32Array(LIVE_BLOCK);
  const right = new Float32Array(LIVE_BLOCK);
  const free = heapOfThread().freeBytes;
  let bytes = 0;
  for (let run = 0; run < runs; run++) {
    const engine = new Engine(RATE);
    for (const [id, sound] of samples) engine.setSamples(id, sound);
    engine.applyPlan(plan);
    bytes = free - heapOfThread().freeBytes;
    engine.play();
    for (let block = 0; block < blocks; block++) {
      const began = performance.now();
      engine.renderBlock(left, right, LIVE_BLOCK);
      times[block] = Math.min(times[block]!, performance.now() - began);
    }
    engine.dispose();
  }
  return { times: times.sort(), bytes };
}

/** A point of one lane dragged in a session of 24 tracks, each with a lane of 2000 points: medians of milliseconds. */
function dragging(): { page: number; audio: number } {
  const points = Array.from({ length: 2000 }, (_, n) => ({
    beat: n * 0.1,
    value: -20 + ((n * 7) % 23),
    shape: 'straight' as const,
    bend: 0,
  }));
  const tracks = Array.from({ length: 24 }, (_, n): Command[] => [
    { type: 'track.add', id: `track-${n}`, name: `Track ${n}` },
    {
      type: 'lane.add',
      lane: {
        id: `lane-${n}`,
        ownerId: `track-${n}`,
        parameter: 'gainDb',
        on: true,
        points,
        mirrorOf: null,
        mirrorAmount: 100,
      },
    },
  ]).flat();
  let document = applyCommand(newDocument('Many lanes'), { type: 'all', commands: tracks }, 'built').document;
  const compiler = new Compiler();
  const engine = new Engine(RATE);
  let plan = compiler.compile(document);
  let there = withDelta(null, structuredClone(deltaOf(null, plan)));
  engine.applyPlan(there);
  const page: number[] = [];
  const audio: number[] = [];
  for (let move = 0; move < 60; move++) {
    const moved = points.map((point, n) => (n === 1000 ? { ...point, value: -40 + move / 10 } : point));
    document = applyCommand(document, { type: 'lane.set', id: 'lane-3', values: { points: moved } }, 'drag').document;
    const began = performance.now();
    const next = compiler.compile(document);
    if (changesBetween(plan, next) !== null) throw new Error('A point that moves makes another plan');
    const delta = deltaOf(plan, next);
    page.push(performance.now() - began);
    plan = next;
    const travelled = structuredClone(delta);
    const arrived = performance.now();
    there = withDelta(there, travelled);
    engine.applyPlan(there);
    audio.push(performance.now() - arrived);
  }
  const median = (all: number[]) => all.sort((a, b) => a - b)[all.length >> 1]!;
  return { page: median(page), audio: median(audio) };
}

async function main(): Promise<void> {
  const aims: Record<string, string> = {
    delay: 'over 300',
    chorus: 'over 33',
    flanger: 'over 50',
    reverb: 'over 60',
    midside: 'over 300',
    doubler: 'over 100',
  };
  for (const spec of EFFECTS) kernel(`${spec.id}, defaults`, spec.id, {}, aims[spec.id]);
  kernel('eq, eight bands', 'eq', Object.fromEntries(Array.from({ length: 8 }, (_, n) => [`bands.${n + 1}.on`, true])));
  kernel('reverb, eco', 'reverb', { quality: 'eco' }, 'over 120');
  kernel('reverb, fine', 'reverb', { quality: 'fine' }, 'over 30');
  kernel('reverb, a decay of its own in every octave', 'reverb', {
    decayOctaves: '0.6059,1.3,1.02,0.8,1.2,0.9964,0.7,0.4263,0.4',
  });
  kernel('reverb, tail pitch shift', 'reverb', { pitchAmount: 50 });
  for (const quality of ['eco', 'standard', 'fine']) blocksOf(`reverb, ${quality}`, 'reverb', { quality });
  convolution(2, 'over 70');
  convolution(5, 'over 45');
  convolution(10, 'over 25');
  convolution(20, '');
  kernel('delay, filtered 24 dB/oct', 'delay', { 'lines.1.filterType': 'lowPass', 'lines.1.slope': '24' });
  kernel('delay, swaying', 'delay', { 'lines.1.modDepth': 2 });
  kernel('delay, driven', 'delay', { 'lines.1.drive': 12 });
  kernel('delay, everything', 'delay', {
    'lines.1.modDepth': 2,
    'lines.1.drive': 12,
    'lines.1.filterType': 'bandPass',
    'lines.1.slope': '24',
    'lines.1.filterPlace': 'loop',
  });

  const eight = (values: ParameterValues) =>
    Object.fromEntries(
      Array.from({ length: 8 }, (_, n) =>
        Object.entries({ on: true, timeLeft: 100 + 37 * n, ...values }).map(([id, value]) => [
          `lines.${n + 1}.${id}`,
          value,
        ]),
      ).flat(),
    );
  kernel('delay, eight lines', 'delay', eight({}));
  kernel('delay, eight lines that sway', 'delay', eight({ modDepth: 2 }));
  kernel(
    'delay, eight lines that sway, worn and driven',
    'delay',
    { ...eight({ modDepth: 2, drive: 12 }), wear: 'tape' },
    'over 6.7',
  );
  kernel('delay, one line after another, eight of them', 'delay', { ...eight({}), routing: 'series' });
  const sixteen = (unit: Kernel) => {
    for (let n = 0; n < 16; n++) unit.handleEvent!({ kind: 'noteOn', key: 40 + 3 * n, velocity: 1 }, 0);
  };
  kernel('synth, sixteen notes', 'synth', {}, 'over 60', sixteen);
  kernel('synth, sixteen notes of seven copies', 'synth', { unison: 7 }, '', sixteen);
  kernel('vocoder, 32 bands of order 4', 'vocoder', { bands: 32, order: '4' }, 'over 60');
  kernel('vocoder, 32 bands of order 4, a track as carrier', 'vocoder', { bands: 32, order: '4', carrier: 'key' });
  kernel('vocoder, 64 bands of order 4', 'vocoder', { bands: 64, order: '4' }, 'over 30');
  const sung = (count: number, more: ParameterValues = {}) => ({
    ...Object.fromEntries(Array.from({ length: count }, (_, n) => [`voices.${n + 1}.on`, true] as const)),
    ...more,
  });
  kernel('harmony, three voices', 'harmony', sung(3), 'over 20');
  kernel('harmony, six voices', 'harmony', sung(6), 'over 10');
  kernel('harmony, three voices of chords', 'harmony', sung(3, { method: 'polyphonic' }));
  kernel('harmony, six voices of chords', 'harmony', sung(6, { method: 'polyphonic' }));
  // The same block comes again and again: a tone of 375 Hz, in which harmonies find a pitch.
  blocksOf('synth, sixteen notes', 'synth', {}, sixteen);
  blocksOf('vocoder, 64 bands of order 8', 'vocoder', { bands: 64, order: '8' });
  blocksOf('harmony, six voices', 'harmony', sung(6));
  blocksOf('harmony, six voices of chords', 'harmony', sung(6, { method: 'polyphonic' }));
  kernel('chorus, six voices on a band', 'chorus', { voices: '6', bandLow: 300 });
  kernel('chorus, in grains', 'chorus', { motion: 'grains' });
  kernel('flanger, with feedback through zero', 'flanger', { feedback: 60, throughZero: true });
  const across = { 'midToSide.gain': -6, 'midToSide.delay': 17, 'midToSide.lowCut': 350, 'midToSide.highCut': 7000 };
  kernel('midside, a way across with both cuts', 'midside', across, 'over 300');
  kernel('midside, with loop and level', 'midside', { ...across, 'sideToMid.gain': -9, loop: 60, autoLevel: true });
  kernel(
    'place, binaural, circling with Doppler',
    'place',
    {
      ...{ render: 'binaural', motion: 'circle', motionRate: 0.5, distance: 3, doppler: 100 },
    },
    'over 60',
  );
  kernel(
    'place, binaural, of a size, circling',
    'place',
    {
      ...{ render: 'binaural', motion: 'circle', motionRate: 0.5, distance: 3, size: 2 },
    },
    'over 53: 32 within 60 % of a core',
  );
  kernel('doubler, four copies above the lows', 'doubler', { mode: 'copies', voices: '4', lowMono: 180 }, 'over 100');
  kernel('phaser, 24 stages', 'phaser', { stages: '24' });

  const session = validateDocument(JSON.parse(readFileSync('demo/session.json', 'utf8')));
  const samples = new Map<string, { left: Float32Array; right: Float32Array }>();
  let decoding = 0;
  for (const asset of Object.values(session.assets)) {
    const bytes = new Uint8Array(readFileSync(`demo/sounds/${asset.name}`));
    const began = performance.now();
    samples.set(asset.id, stereoOf(await readSound(bytes, asset.name)));
    decoding += (performance.now() - began) / 1000;
  }
  const plan = compile(session);
  const length = plan.endFrame / RATE;
  const demo = 'demo session';
  const rendering = best(wanted(demo) ? 3 : 0, () =>
    renderPlan(plan, samples, { fromFrame: 0, toFrame: plan.endFrame, tailSeconds: 0 }),
  );
  const effects = plan.strips.reduce((sum, strip) => sum + strip.inserts.length, 0);
  if (wanted(demo))
    rows.push([
      `demo session, ${session.session.trackIds.length} tracks, ${session.session.returnIds.length} returns, ${effects} effects`,
      (length / rendering).toFixed(1),
      'over 40 with 2 effects',
    ]);
  const large = largeMix();
  const inserts = large.plan.strips.reduce((sum, strip) => sum + strip.inserts.length, 0);
  const mixing = best(wanted('24 tracks') ? 2 : 0, () =>
    renderPlan(large.plan, large.samples, { fromFrame: 0, toFrame: large.plan.endFrame, tailSeconds: 0 }),
  );
  if (wanted('24 tracks'))
    rows.push([`24 tracks, 8 returns, ${inserts} effects`, (large.seconds / mixing).toFixed(1), 'over 1']);

  const minute = Float32Array.from({ length: 44100 * 20 }, (_, n) => Math.sin(n / 9));
  if (wanted('resampler'))
    rows.push([
      'resampler, 44.1 to 48 kHz, one channel',
      (20 / best(2, () => resample(minute, 44100, 48000))).toFixed(0),
      '',
    ]);
  rows.push(['FLAC decoding, demo sounds', ((length * samples.size) / decoding).toFixed(0), '']);

  const lines = plan.strips.flatMap((strip) => strip.inserts).find(({ id }) => id === 'throw-echo')!;
  const phrase = Float32Array.from(
    { length: 4 * RATE },
    (_, n) => 0.3 * Math.sin(n / 20) * Math.exp(-(n % 24000) / 9000),
  );
  const reverb = specOf('reverb');
  const hall = {
    id: 'hall',
    effect: 'reverb',
    bypass: false,
    values: resolveValues(reverb, { size: 40, decay: 6, mix: 100 }, { tempoBpm: 84, beatsPerBar: 3 }),
    settings: resolveSettings(reverb, {})!,
  };
  const swelling = best(wanted('swell') ? 3 : 0, () => {
    const steps = renderSwell({ left: phrase, right: phrase }, [hall], {
      sampleRate: RATE,
      landFrame: 0,
      sourceSeconds: 4,
      lengthSeconds: 6,
      fadeInSeconds: 1,
      fadeShape: 'late',
      gapSeconds: 0,
      levelDb: 0,
      width: 1,
      over: true,
    });
    while (!steps.next().done);
  });
  const picture = best(wanted('echogram') ? 3 : 0, () => [...lineEchograms(lines, RATE, 17.1, 4000)]);

  const texts: string[] = [];
  if (Number.isFinite(swelling)) {
    texts.push(`Swell of a phrase of 4 s in a hall of 6 s: ${swelling.toFixed(2)} s (aim 2).`);
  }
  if (Number.isFinite(picture)) {
    texts.push(`Echogram of the demo's delay, 17.1 s: ${(picture * 1000).toFixed(0)} ms.`);
  }
  if (wanted(demo)) {
    const { times, bytes } = blockTimes(plan, samples, 8);
    const share = (part: number) => times[Math.min(times.length - 1, Math.floor(part * times.length))]!.toFixed(2);
    const live = (1000 * LIVE_BLOCK) / RATE / (times.reduce((sum, time) => sum + time, 0) / times.length);
    const late = times.filter((time) => time > (1000 * LIVE_BLOCK) / RATE).length;
    const megabytes = (count: number) => (count / 1024 / 1024).toFixed(0);
    const held = [...samples.values()].reduce(
      (sum, { left, right }) => sum + 4 * (left.length + (right === left ? 0 : right.length)),
      0,
    );
    texts.push(
      `Blocks of the demo session, the least of 8 runs each, of 2.67 ms that there are: median ${share(0.5)} ms, 99.9 % under ${share(0.999)} ms, the slowest ${share(1)} ms, ${late} of ${times.length} too late: ${live.toFixed(1)} times real time. Its effects hold ${megabytes(bytes)} MiB, its sounds ${megabytes(held)} MiB, once for page and audio thread.`,
    );
  }
  if (wanted('a point dragged')) {
    const drag = dragging();
    texts.push(
      `A point dragged in a session of 24 tracks, each with a lane of 2000 points: ${drag.page.toFixed(1)} ms a move on the page (aim: under 4), ${drag.audio.toFixed(1)} ms in the audio thread (aim: under 2).`,
    );
  }

  await browserConvolutions();
  const table = [
    '| what | real-time factor | aim |',
    '|---|---:|---|',
    ...rows.map(([what, factor, aim]) => `| ${what} | ${factor} | ${aim} |`),
  ].join('\n');
  const blockTable = [
    '',
    'Single blocks, in microseconds of the 2667 that there are, the least of 24 runs each:',
    '',
    '| what | median | 99 % | 99.9 % | slowest | slowest / median | MiB held |',
    '|---|---:|---:|---:|---:|---:|---:|',
    ...blockRows.map((cells) => `| ${cells.join(' | ')} |`),
    '',
  ].join('\n');
  const report = `# Benchmarks

Printed by \`npm run bench\`. Stereo, 48 kHz, one core (${cpus()[0]?.model ?? 'unknown'}), Node ${process.versions.node}; the best of some runs.
A factor of 100 means that a second of sound takes 10 ms. Effects are given blocks of ${LIVE_BLOCK} frames, as live; sessions are rendered as prints are, in
blocks of ${MAXIMUM_BLOCK}. Machines are shared: compare ratios within one run.

${table}
${blockTable}${texts.map((text) => `\n${text}\n`).join('')}`;
  process.stdout.write(report);

  /** Measured in a browser by \`script/screenshots.ts\`, kept when the rest is measured anew. */
  const file = 'docs/benchmarks.md';
  if (process.argv.includes('--write')) {
    const old = (() => {
      try {
        return readFileSync(file, 'utf8');
      } catch {
        return '';
      }
    })();
    const kept = old.slice(old.indexOf('\n## In the browser'));
    writeFileSync(file, old.includes('\n## In the browser') ? report + kept : report);
    execFileSync('npx', ['--no-install', 'prettier', '--write', file]);
  }
}

void main();
