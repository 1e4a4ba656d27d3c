/**
 * Makes the sounds of the demo session, "Low Water Signal", and its document. Needs Debian's espeak-ng; the sounds are
 * shipped, so nobody has to run this but who changes the music. With `--keep-sounds` only the document is made anew.
 */
import '../src/core/wasm/embedded';
import { createHash } from 'node:crypto';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { integratedLoudness } from '../src/core/analysis/loudness';
import { measureLevels } from '../src/core/analysis/levels';
import { renderPlan } from '../src/core/engine/render';
import { writeFlac } from '../src/core/formats/flac';
import { applyCommand, type Command } from '../src/core/session/commands';
import { compile } from '../src/core/session/compile/compiler';
import { makeSwell, presetSpace } from '../src/core/swells/makeSwell';
import { printWork } from '../src/core/session/printing';
import { newDocument } from '../src/core/session/records/factories';
import type { Asset } from '../src/core/session/records/clips';
import type { SessionDocument } from '../src/core/session/records/document';
import type { SwellRecipe, SwellSpace } from '../src/core/session/records/prints';
import { BytesSink } from '@/core/formats/fileSink';
import { inMemory } from '@/core/jobs/place';
import { runJob } from '../src/core/jobs/jobs';
import type { Task } from '../src/core/jobs/kinds';
import { readWav } from '../src/core/formats/wav';
import { readSound } from '../src/core/formats/readSound';
import { bell, harp, normalise, organ, pedal, saw, tin } from './instruments';
import { MIX } from './mix';
import {
  BARS,
  BEATS_PER_BAR,
  BELL,
  HARP,
  NOTICE,
  ORGAN,
  PEDAL,
  RATE,
  SAW,
  SECONDS_PER_BEAT,
  SECTIONS,
  TEMPO,
  TIN,
} from './score';
import { announce, sing } from './voice';

const FOLDER = new URL('./sounds/', import.meta.url).pathname;
const LENGTH = BARS * BEATS_PER_BAR * SECONDS_PER_BEAT;
const RING = 3;

interface Part {
  readonly id: string;
  readonly name: string;
  readonly file: string;
  readonly make: () => readonly Float32Array[];
  readonly peakDb: number;
  readonly gainDb: number;
  readonly pan: number;
  /** Passages as [first beat, last beat]; each becomes a clip. */
  readonly clips: readonly (readonly [from: number, to: number, name: string])[];
}

const END = BARS * BEATS_PER_BAR + RING / SECONDS_PER_BEAT;
const parts: Part[] = [
  {
    id: 'lamp-keeper',
    name: 'Lamp keeper',
    file: 'lamp-keeper.flac',
    make: () => [sing(LENGTH + RING)],
    peakDb: -5,
    gainDb: -1,
    pan: 0,
    clips: [
      [2.75, 15, 'low tide'],
      [18.75, 30.5, 'leave me a light'],
      [35.75, 55, 'slow tide, high tide'],
    ],
  },
  {
    id: 'announcer',
    name: 'Harbour announcer',
    file: 'announcer.flac',
    make: () => [announce(NOTICE.text, NOTICE.beat * SECONDS_PER_BEAT, LENGTH + RING)],
    peakDb: -8,
    gainDb: -3,
    pan: 35,
    clips: [[29.75, 36, 'harbour notice']],
  },
  {
    id: 'harp',
    name: 'Nylon harp',
    file: 'harp.flac',
    make: () => [harp(HARP, LENGTH + RING)],
    peakDb: -6,
    gainDb: -8,
    pan: -30,
    clips: [[0, END, 'harp']],
  },
  {
    id: 'organ',
    name: 'Reed organ',
    file: 'reed-organ.flac',
    make: () => organ(ORGAN, LENGTH + RING),
    peakDb: -9,
    gainDb: -11,
    pan: 0,
    clips: [[0, END, 'reed organ']],
  },
  {
    id: 'saw',
    name: 'Bowed saw',
    file: 'bowed-saw.flac',
    make: () => [saw(SAW, LENGTH + RING)],
    peakDb: -9,
    gainDb: -14,
    pan: 25,
    clips: [
      [14.25, 19.5, 'saw, answer'],
      [29.75, 36.25, 'saw, slack'],
      [38.75, END, 'saw, flood'],
    ],
  },
  {
    id: 'tin',
    name: 'Tin percussion',
    file: 'tin.flac',
    make: () => [tin(TIN, LENGTH + RING)],
    peakDb: -6,
    gainDb: -16,
    pan: 15,
    clips: [[12, 55, 'tin']],
  },
  {
    id: 'bell',
    name: 'Low bell',
    file: 'low-bell.flac',
    make: () => [bell(BELL, LENGTH + RING)],
    peakDb: -6,
    gainDb: -14,
    pan: -12,
    clips: [[0, END, 'low bell']],
  },
  {
    id: 'pedal',
    name: 'Tide pedal',
    file: 'tide-pedal.flac',
    make: () => [pedal(PEDAL, LENGTH + RING)],
    peakDb: -6,
    gainDb: -16,
    pan: 0,
    clips: [[3, END, 'pedal']],
  },
];

async function writeSound(part: Part): Promise<void> {
  const channels = part.make();
  normalise(channels, part.peakDb);
  const bytes = await writeFlac({ sampleRateHz: RATE, channels }, 16);
  if (bytes.length > 4_000_000) throw new Error(`${part.file} is ${bytes.length} bytes; at most 4 MB are shipped`);
  writeFileSync(FOLDER + part.file, bytes);
}

/** Swells of the demo: the clip and the beat of the word, and how they grow. */
const SWELLS: readonly {
  readonly clipId: string;
  readonly beat: number;
  readonly file: string;
  readonly space: SwellSpace;
  readonly values: Record<string, number | string | boolean>;
}[] = [
  {
    clipId: 'lamp-keeper-2',
    beat: 19,
    file: 'swell-leave.flac',
    space: presetSpace('reverb', 'plate'),
    values: { source: 0.6, ring: false, length: '1bar', fadeIn: 1.2, level: 2, tone: 0.5 },
  },
  {
    clipId: 'lamp-keeper-3',
    beat: 36,
    file: 'swell-flood.flac',
    space: { kind: 'return', returnId: 'tide-hall' },
    values: { source: 0.9, ring: false, length: '1bar', fadeIn: 1.5, level: 6, width: 120 },
  },
];

/** Adds the swells, and makes their sounds as the application does. */
async function withSwells(dry: SessionDocument): Promise<SessionDocument> {
  let document = dry;
  const change = (command: Command) => (document = applyCommand(document, command, 'Swell').document);
  for (const { clipId, beat, file, space, values } of SWELLS) {
    const clip = document.clips[clipId]!;
    const from = clip.offsetSeconds + (beat - clip.startBeat) * SECONDS_PER_BEAT;
    let id = 0;
    const newId = () => `${file.replace('.flac', '')}-${++id}`;
    const {
      command,
      printId,
      clipId: swellId,
      trackId,
    } = makeSwell(document, clip, { from, to: from + 1 }, space, newId);
    change(command);
    change({ type: 'strip.set', id: trackId, values: { name: 'Swells' } });
    const { recipe } = document.prints[printId]!;
    change({ type: 'print.set', id: printId, recipe: { ...(recipe as SwellRecipe), values } });
    change({
      type: 'clip.set',
      id: swellId,
      values: { name: file === 'swell-leave.flac' ? 'into “leave”' : 'into the flood' },
    });
    const { task, soundIds, fingerprint } = printWork(document, document.prints[printId]!)!;
    const sounds = soundIds.map((assetId) => ({ assetId, ...samples.get(assetId)! }));
    const sink = new BytesSink();
    const work = { ...task, samples: sounds } as Extract<Task, { kind: 'swell' }>;
    const { landSeconds } = await runJob(work, undefined, inMemory(sink));
    const { channels } = readWav(sink.bytes, file);
    const written = await writeFlac({ sampleRateHz: RATE, channels }, 16);
    writeFileSync(FOLDER + file, written);
    const assetId = createHash('sha256').update(written).digest('hex');
    const asset = { id: assetId, name: file, frames: channels[0]!.length, sampleRateHz: RATE, channels: 2 };
    const heard = (await readSound(written, file)).channels;
    samples.set(assetId, { left: heard[0]!, right: heard[1]! });
    change({ type: 'asset.add', asset });
    change({ type: 'print.made', id: printId, made: { assetId, fingerprint, landSeconds } });
  }
  return document;
}

mkdirSync(FOLDER, { recursive: true });
const commands: Command[] = [
  {
    type: 'session.set',
    values: {
      tempoBpm: TEMPO,
      metreBeats: 3,
      metreUnit: 4,
      keyTonic: 'D',
      keyMode: 'dorian',
      loopStartBeat: 18,
      loopEndBeat: 36,
    },
  },
  ...SECTIONS.map((section): Command => ({ type: 'section.add', section })),
];
const samples = new Map<string, { left: Float32Array; right: Float32Array }>();
for (const part of parts) {
  if (!process.argv.includes('--keep-sounds')) await writeSound(part);
  const bytes = new Uint8Array(readFileSync(FOLDER + part.file));
  const { channels } = await readSound(bytes, part.file);
  const asset: Asset = {
    id: createHash('sha256').update(bytes).digest('hex'),
    name: part.file,
    frames: channels[0]!.length,
    sampleRateHz: RATE,
    channels: channels.length,
  };
  samples.set(asset.id, { left: channels[0]!, right: channels[1] ?? channels[0]! });
  commands.push(
    { type: 'asset.add', asset },
    { type: 'track.add', id: part.id, name: part.name },
    { type: 'strip.set', id: part.id, values: { gainDb: part.gainDb, pan: part.pan } },
    ...part.clips.map(([from, to, name], index): Command => {
      const offsetSeconds = from * SECONDS_PER_BEAT;
      const lengthSeconds = Math.min(to * SECONDS_PER_BEAT, asset.frames / RATE) - offsetSeconds;
      return {
        type: 'clip.add',
        clip: {
          id: `${part.id}-${index + 1}`,
          trackId: part.id,
          source: { kind: 'sound', assetId: asset.id },
          name,
          startBeat: from,
          offsetSeconds,
          lengthSeconds,
          gainDb: 0,
          fadeInSeconds: 0.005,
          fadeOutSeconds: 0.05,
          fadeInShape: 'smooth',
          fadeOutShape: 'smooth',
          reversed: false,
          mute: false,
        },
      };
    }),
  );
  const levels = measureLevels({ sampleRateHz: RATE, channels });
  console.log(
    `${part.file}: ${(bytes.length / 1024).toFixed(0)} KiB, ${levels.loudnessLufs?.toFixed(1)} LUFS, peak ${levels.peakDb?.toFixed(1)} dB`,
  );
}
commands.push(...MIX);
const document = await withSwells(
  applyCommand(newDocument('Low Water Signal'), { type: 'all', commands }, 'Demo').document,
);
writeFileSync(new URL('./session.json', import.meta.url), `${JSON.stringify(document, null, 2)}\n`);

const plan = compile(document);
const mix = renderPlan(plan, samples, { fromFrame: 0, toFrame: plan.endFrame, tailSeconds: 0 })!;
const levels = measureLevels({ sampleRateHz: RATE, channels: [mix.left, mix.right] });
console.log(
  `mix: ${integratedLoudness([mix.left, mix.right], RATE).toFixed(1)} LUFS, true peak ${levels.truePeakDb?.toFixed(1)} dB, correlation ${levels.correlation?.toFixed(2)}, mono loses ${levels.monoLossLu?.toFixed(1)} LU`,
);
