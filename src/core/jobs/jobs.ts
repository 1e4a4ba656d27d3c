import { findChords } from '../analysis/chordFinder';
import { chainEchogram, lineEchograms } from '../analysis/echogram';
import { lowSpectrum } from '../analysis/lowSpectrum';
import { findOnsets } from '../analysis/onsets';
import { withoutOffset } from '../analysis/offset';
import { findPhrases } from '../analysis/phrases';
import { pitchInSteps } from '../analysis/pitch';
import { portraitOf } from '../analysis/portrait';
import { computePicture } from '../analysis/pictures';
import { measureChain } from '../analysis/room';
import { matchRoom } from '../analysis/roomMatch';
import { recordIn } from '../analysis/simulatedRoom';
import { measurementSignal, recoverImpulse, type SweepSettings } from '../analysis/sweep';
import { measureRoom } from '../dsp/decay';
import { simulatorById } from '../effects/convolution/impulses/simulators';
import { atPeak, impulseBy, type Paths } from '../effects/convolution/impulses/simulator';
import { shippedImpulse } from '../effects/convolution/prepare';
import { resampledLength, resampleStretch } from '../dsp/resampler';
import type { Samples } from '../engine/plan';
import { chainPlan } from '../engine/plans';
import { partOf, renderInSteps, type RenderSounds } from '../engine/render';
import { prepare } from '../engine/resources';
import { renderSwell } from '../swells/renderSwell';
import { aboutSound } from '../formats/about/aboutSound';
import { blobBytes, bytesOf } from '../formats/fileBytes';
import { openSeekable } from '../formats/seekable/seekable';
import { heardOf, type Heard } from '../formats/speakers';
import { inOne } from '../formats/parts';
import { openSound, salvageSound, soundPieces } from '../formats/readSound';
import type { SoundReader } from '../formats/soundReader';
import { SoundScanner } from '../formats/soundScanner';
import { middleOf, moreOf, stereoOf } from '../formats/sound';
import { writeWav } from '../formats/wav';
import { workOutListening } from '../listening/responses';
import { wholes, withSounds } from './jobSounds';
import type { ImpulseSource, JobInputs, JobKind, JobResults, JobStep, Rendering, Task } from './kinds';
import { inMemory, type JobPlace } from './place';
import { bounce, levels, print, printed } from './soundFiles';

/** Between two steps whoever does the work may listen, or give it up by `return`. */
type Steps<K extends JobKind> = AsyncGenerator<JobStep, JobResults[K]>;

/** Says how far work is that cannot be left off in between. */
type Tell = (done: number) => void;

/** Services of the caller that jobs use. */
interface Around {
  readonly tell: Tell;
  readonly place: JobPlace;
}

/** Bytes of a file that are read at a time. */
const SCANNED = 1024 * 1024;

/** Frames of a sound that are worked out at a time. */
const STRETCH = 65536;

const shared = (frames: number) => new Float32Array(new SharedArrayBuffer(frames * 4));

async function* decode({ bytes: buffer, name, sampleRateHz, heard }: JobInputs['decode']): Steps<'decode'> {
  const bytes = new Uint8Array(buffer);
  const reader = openSound(bytes, name);
  try {
    const pieces = heardPieces(soundPieces(bytesOf(bytes), reader), heard);
    const first = await pieces.next();
    const { stated } = reader;
    const channels = first.done ? 0 : first.value.length;
    const isStraight = stated !== null && channels <= 2 && reader.sampleRateHz === sampleRateHz;
    if (first.done || !isStraight) return yield* decodeWhole(first.value ?? [], pieces, reader, sampleRateHz);
    return yield* decodeStraight(first.value, pieces, stated, sampleRateHz);
  } finally {
    reader.free();
  }
}

type Pieces = AsyncGenerator<readonly Float32Array[]>;

async function* heardPieces(pieces: Pieces, heard: Heard | undefined): Pieces {
  for await (const piece of pieces) yield heardOf(piece, heard);
}

/** A sound at the rate that is wanted: what has been decoded can be heard while the rest comes. */
async function* decodeStraight(
  first: readonly Float32Array[],
  pieces: Pieces,
  frames: number,
  sampleRateHz: number,
): Steps<'decode'> {
  const channels = first.length;
  const left = shared(frames);
  const right = channels === 1 ? left : shared(frames);
  yield { left, right };
  let at = 0;
  const take = (piece: readonly Float32Array[]) => {
    // More than it said it would be is told of at the end.
    const room = Math.max(0, Math.min(piece[0]!.length, frames - at));
    left.set(piece[0]!.subarray(0, room), at);
    if (channels === 2) right.set(piece[1]!.subarray(0, room), at);
    at += piece[0]!.length;
    return Math.min(1, at / frames);
  };
  yield take(first);
  for await (const piece of pieces) yield take(piece);
  return { left, right, originalFrames: frames, originalRateHz: sampleRateHz, channels };
}

/** A sound that is resampled, or of which it is not known before how long it is. */
async function* decodeWhole(
  first: readonly Float32Array[],
  rest: Pieces,
  reader: SoundReader,
  sampleRateHz: number,
): Steps<'decode'> {
  const pieces = [first];
  for await (const piece of rest) pieces.push(piece);
  const sound = { sampleRateHz: reader.sampleRateHz, channels: inOne(pieces) };
  yield 0;
  const from = stereoOf(sound);
  const length = resampledLength(from.left.length, sound.sampleRateHz, sampleRateHz);
  const left = shared(length);
  const mono = from.left === from.right;
  const right = mono ? left : shared(length);
  yield { left, right };
  for (let at = 0; at < length; at += STRETCH) {
    const end = Math.min(length, at + STRETCH);
    resampleStretch(from.left, sound.sampleRateHz, sampleRateHz, left, at, end);
    if (!mono) resampleStretch(from.right, sound.sampleRateHz, sampleRateHz, right, at, end);
    yield end / length;
  }
  const converted = (channel: Float32Array) => {
    const out = shared(length);
    resampleStretch(channel, sound.sampleRateHz, sampleRateHz, out, 0, length);
    return out;
  };
  const more = moreOf(sound);
  return {
    left,
    right,
    ...(more ? { more: [converted(more[0]), converted(more[1])] as const } : {}),
    originalFrames: from.left.length,
    originalRateHz: sound.sampleRateHz,
    channels: sound.channels.length,
  };
}

/** Renders a plan; its progress goes from `from` on over a share of the whole. */
async function* rendered(
  { plan, samples, range }: Rendering,
  place: JobPlace,
  from = 0,
  share = 1,
): AsyncGenerator<number, Samples> {
  const begin = (sounds: RenderSounds) => partOf(renderInSteps(plan, sounds, range), from, share);
  return yield* withSounds(plan, samples, place, begin);
}

async function* swell({ plan, samples, inserts, settings }: JobInputs['swell'], { place }: Around): Steps<'swell'> {
  const { sampleRate, landFrame, sourceSeconds } = settings;
  const range = { fromFrame: 0, toFrame: plan.endFrame, tailSeconds: 0 };
  const word = yield* rendered({ plan, samples, range }, place, 0, 0.1);
  let begun: Samples | null = null;
  const room = (frames: number) => (begun = { left: shared(frames), right: shared(frames) });
  const steps = renderSwell(word, inserts, settings, wholes(samples), room);
  try {
    for (;;) {
      const step = steps.next();
      if (step.done) {
        const under = settings.over
          ? Math.min(word.left.length - landFrame, Math.round(sourceSeconds * sampleRate))
          : 0;
        const { left, right } = step.value;
        return await printed([left, right], sampleRate, place, (left.length - under) / sampleRate);
      }
      if (begun) yield begun;
      begun = null;
      yield 0.1 + 0.9 * step.value;
    }
  } finally {
    steps.return(undefined as never);
  }
}

async function* repair(
  { assetId, samples, sampleRateHz, removeDc, filter }: JobInputs['repair'],
  { place }: Around,
): Steps<'repair'> {
  const { left, right } = wholes(samples).get(assetId)!;
  yield 0;
  const balanced = { left: removeDc ? withoutOffset(left) : left, right: removeDc ? withoutOffset(right) : right };
  if (!filter) return printed([balanced.left, balanced.right], sampleRateHz, place);
  const { plan, samples: sounds } = chainPlan([filter], sampleRateHz, balanced);
  const all = [...sounds].map(([id, sound]) => ({ assetId: id, ...sound }));
  const range = { fromFrame: 0, toFrame: left.length, tailSeconds: 0 };
  return yield* print({ plan, samples: all, range }, place);
}

async function* impulse({ from, sampleRateHz }: JobInputs['impulse'], { tell }: Around): Steps<'impulse'> {
  yield 0;
  const scaled = atPeak(impulseOf(from, sampleRateHz, tell), 0.9);
  return {
    left: scaled[0]!,
    right: scaled[1] ?? scaled[0]!,
    bytes: writeWav({ sampleRateHz, channels: scaled }, '32f'),
  };
}

function impulseOf(from: ImpulseSource, sampleRateHz: number, tell: Tell): Paths {
  if (from.kind === 'shipped') return shippedImpulse(from.id, sampleRateHz);
  const simulator = simulatorById(from.simulator)!;
  return impulseBy(simulator, from.values, from.seed, sampleRateHz, tell);
}

async function* recover(
  { settings, sampleRateHz, recording }: JobInputs['recover'],
  { tell }: Around,
): Steps<'recover'> {
  yield 0;
  const sides =
    'left' in recording ? [recording.left, recording.right] : inSimulated(recording, settings, sampleRateHz);
  const { paths, ...figures } = recoverImpulse(sides, settings, sampleRateHz, tell);
  // Both sides are as long as the longer one.
  const frames = Math.max(...paths.map(({ length }) => length));
  const channels = paths.map((path) => {
    const whole = new Float32Array(frames);
    whole.set(path);
    return whole;
  });
  const room = measureRoom(channels, sampleRateHz);
  return { ...figures, room, bytes: writeWav({ sampleRateHz, channels }, '32f') };
}

/** Simulated recording in a place that ships with the application. */
function inSimulated(
  place: Exclude<JobInputs['recover']['recording'], Samples>,
  settings: SweepSettings,
  sampleRateHz: number,
): Float32Array[] {
  const paths = atPeak(shippedImpulse(place.placeId, sampleRateHz).slice(0, 2), 0.5);
  const { noiseDb, clockPpm } = place;
  return recordIn(
    { paths, noiseDb, clockPpm, distortion: 0.02, seed: 1 },
    measurementSignal(settings, sampleRateHz),
    sampleRateHz,
  );
}

/** The function of every kind of job: the same in the browser's worker, on the command line and on a server. */
export const JOBS: { readonly [K in JobKind]: (input: JobInputs[K], around: Around) => Steps<K> } = {
  decode,
  async *about({ file }) {
    yield 0;
    return { about: await aboutSound(blobBytes(file)) };
  },
  async *scan({ file, name, longerThanSeconds }) {
    yield 0;
    const sound = await openSeekable(blobBytes(file), name);
    sound?.free();
    // A short one is decoded as a whole, which checks it too.
    if (sound && sound.frames / sound.sampleRateHz <= longerThanSeconds) return { isLong: false };
    const scanner = new SoundScanner(name);
    for (let at = 0; at < file.size; at += SCANNED) {
      await scanner.push(new Uint8Array(await file.slice(at, at + SCANNED).arrayBuffer()));
      yield Math.min(1, (at + SCANNED) / file.size);
    }
    const { frames, sampleRateHz } = await scanner.end();
    return { isLong: frames / sampleRateHz > longerThanSeconds };
  },
  async *unpack({ file, name }) {
    yield 0;
    // Its demuxer is large and seldom needed.
    const { unpackAac } = await import('../formats/aac');
    return yield* unpackAac(file, name);
  },
  async *salvage({ bytes, name }) {
    yield 0;
    return { bytes: writeWav(await salvageSound(new Uint8Array(bytes), name), '32f') };
  },
  async *echogram({ inserts, apart, sampleRateHz, seconds, slots, sounds }) {
    yield 0;
    const steps = apart
      ? lineEchograms(inserts[0]!, sampleRateHz, seconds, slots)
      : chainEchogram(inserts, sampleRateHz, seconds, slots, wholes(sounds));
    return yield* steps;
  },
  async *room({ inserts, sampleRateHz, sounds }) {
    yield 0;
    return yield* measureChain(inserts, sampleRateHz, wholes(sounds));
  },
  async *picture({ picture, inserts, sampleRateHz, seconds, sounds }) {
    yield 0;
    return computePicture(picture, inserts, sampleRateHz, seconds, wholes(sounds));
  },
  async *prepare({ insert, sampleRateHz, sound }) {
    yield 0;
    return prepare(insert, sampleRateHz, sound);
  },
  render: (input, { place }) => rendered(input, place),
  print: (input, { place }) => print(input, place),
  swell,
  repair,
  impulse,
  async *sweep({ settings, sampleRateHz }) {
    yield 0;
    const signal = measurementSignal(settings, sampleRateHz);
    return { bytes: writeWav({ sampleRateHz, channels: [signal] }, '24') };
  },
  recover,
  async *match({ impulse: from, sampleRateHz }) {
    const paths = 'left' in from ? [from.left, from.right] : shippedImpulse(from.shippedId, sampleRateHz).slice(0, 2);
    return yield* matchRoom(paths, sampleRateHz);
  },
  async *lowSpectrum({ left, right, sampleRateHz }) {
    yield 0;
    return lowSpectrum(left, right, sampleRateHz);
  },
  async *onsets({ left, right, sampleRateHz }) {
    yield 0;
    return findOnsets(left, right, sampleRateHz);
  },
  async *pitch({ left, right, sampleRateHz }) {
    return yield* pitchInSteps(middleOf(left, right), sampleRateHz);
  },
  async *listening({ id, sampleRateHz }) {
    yield 0;
    return workOutListening(id, sampleRateHz);
  },
  levels: (input, { place }) => levels(input, place),
  async *phrases(input, { place }) {
    const { left, right } = yield* rendered(input, place);
    const { sampleRate } = input.plan;
    const { regions } = portraitOf(left, right, sampleRate);
    return { ...findPhrases(left, right, sampleRate), regions };
  },
  async *chords({ stretches, scale, ...input }, { place }) {
    const { left, right } = yield* rendered(input, place, 0, 0.8);
    return yield* partOf(findChords(middleOf(left, right), input.plan.sampleRate, stretches, scale), 0.8, 0.2);
  },
  async *portrait(input, { place }) {
    const { left, right } = yield* rendered(input, place);
    return portraitOf(left, right, input.plan.sampleRate);
  },
  bounce: (input, { place }) => bounce(input, place),
};

/**
 * Does a job to its end.
 * @param onStep called between steps; what it throws ends the work, which gives back all it holds
 * @throws KinetikonError as the job does
 */
export async function runJob<T extends Task>(
  task: T,
  onStep: (step: JobStep) => void | Promise<void> = () => {},
  place: JobPlace = inMemory(),
): Promise<JobResults[T['kind']]> {
  const around: Around = { tell: (done) => void onStep(done), place };
  const steps = (JOBS[task.kind] as (input: unknown, around: Around) => Steps<T['kind']>)(task, around);
  try {
    for (;;) {
      const step = await steps.next();
      if (step.done) return step.value;
      await onStep(step.value);
    }
  } finally {
    await steps.return(undefined as never);
  }
}
