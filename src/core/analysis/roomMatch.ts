import { PLAIN_TIMING } from '../effects/noteValues';
import { clarityOf, arrivalOf, measureRoom, type OctaveDecay, type RoomMeasures } from '../dsp/decay';
import { SOUND_SPEED } from '../dsp/airAbsorption';
import { octaveEnergies } from '../dsp/octaves';
import { specOf } from '../effects/registry';
import { resolveSettings, resolveValues } from '../effects/resolve';
import type { ParameterValue } from '../effects/values';
import type { PlanInsert } from '../engine/plan';
import { chainPlan } from '../engine/plans';
import { partOf, renderInSteps, tailOf } from '../engine/render';
import { KinetikonError } from '../errors';

/** One octave of a match; seconds in which it falls by 60 dB. */
export interface MatchedOctave {
  readonly centreHz: number;
  /** Decay of the impulse in seconds; null if it cannot be measured. */
  readonly wanted: number | null;
  /** Decay of the reverb in seconds. */
  readonly got: number | null;
  /** True if the reverb is within 10 % of it. */
  readonly matches: boolean;
}

/** Settings of `reverb` that come near an impulse, and how near. */
export interface RoomMatch {
  readonly values: Readonly<Record<string, ParameterValue>>;
  readonly octaves: readonly MatchedOctave[];
  readonly wanted: RoomMeasures;
  readonly got: RoomMeasures;
  /** Octaves that it cannot match, and why, a sentence each. */
  readonly notes: readonly string[];
}

const WITHIN = 0.1;
const ROUNDS = 4;
const C80_SECONDS = 0.08;
/** Length of the direct sound of an impulse, which is not part of the room. */
const DIRECT_SECONDS = 0.0025;
const LEAST_DECAY = 0.1;
const MOST_DECAY = 60;
const LEAST_FACTOR = 0.1;
const MOST_FACTOR = 4;
const MOST_SHELF_DB = 12;
const LONGEST_SECONDS = 20;
/** Octaves by which lows, middle and highs are told. */
const LOWS = [125, 250];
const MIDDLE = [500, 1000, 2000];
const HIGHS = [4000, 8000];

const between = (low: number, high: number, value: number) => Math.max(low, Math.min(high, value));

/** The impulse from its first arrival on, without its direct sound. */
function reflectionsOf(paths: readonly Float32Array[], sampleRate: number): Float32Array[] {
  const from = arrivalOf(paths) + Math.round(DIRECT_SECONDS * sampleRate);
  return paths.map((path) => path.map((x, n) => (n < from ? 0 : x)));
}

/** Time after the direct sound in which a tenth of the energy of the first 80 ms of reflections has come. */
function firstReflections(reflections: readonly Float32Array[], arrival: number, sampleRate: number): number {
  const to = arrival + Math.round(C80_SECONDS * sampleRate);
  const energy = (end: number) => {
    let sum = 0;
    for (const path of reflections) for (let n = arrival; n < Math.min(end, path.length); n++) sum += path[n]! ** 2;
    return sum;
  };
  const whole = energy(to);
  let end = arrival;
  while (end < to && energy(end) < 0.1 * whole) end += Math.round(0.001 * sampleRate);
  return (end - arrival) / sampleRate;
}

/** Level of octaves together, in dB. */
function levelOf(paths: readonly Float32Array[], octaves: readonly number[], sampleRate: number): number {
  const sum = octaveEnergies(paths, octaves, sampleRate).reduce((all, energy) => all + energy, 0);
  return 10 * Math.log10(sum / octaves.length + 1e-20);
}

const toneOf = (paths: readonly Float32Array[], sampleRate: number) => {
  const middle = levelOf(paths, MIDDLE, sampleRate);
  return { low: levelOf(paths, LOWS, sampleRate) - middle, high: levelOf(paths, HIGHS, sampleRate) - middle };
};

/** The reverb's own answer to a click, wet alone. */
function* answerOf(values: Record<string, ParameterValue>, sampleRate: number): Generator<number, Float32Array[]> {
  const spec = specOf('reverb');
  const insert: PlanInsert = {
    id: 'match',
    effect: 'reverb',
    bypass: false,
    values: resolveValues(spec, { ...values, mix: 100 }, PLAIN_TIMING),
    settings: resolveSettings(spec, values)!,
  };
  const click = Float32Array.of(1);
  const { plan, samples } = chainPlan([insert], sampleRate, { left: click, right: click });
  const seconds = between(0.5, LONGEST_SECONDS, tailOf(plan, samples));
  const toFrame = Math.ceil(seconds * sampleRate);
  const { left, right } = yield* renderInSteps(plan, { samples }, { fromFrame: 0, toFrame, tailSeconds: 0 });
  return [left, right];
}

/**
 * Fits `reverb` to an impulse: the decay of each octave first, then pre-delay, balance of early and late, size and tone,
 * by rendering the reverb and putting right what differs.
 * @param paths one or more channels at `sampleRate`
 * @throws KinetikonError impulse.bad when no decay can be seen in it
 */
export function* matchRoom(paths: readonly Float32Array[], sampleRate: number): Generator<number, RoomMatch> {
  yield 0;
  const wanted = measureRoom(paths, sampleRate);
  const seen = wanted.octaves.filter((one): one is OctaveDecay & { t30: number } => one.t30 !== null);
  if (seen.length < 3) {
    throw new KinetikonError('impulse.bad', 'Too little decay can be seen in this impulse to match a room to it.', {
      kept: 'Nothing was changed.',
      next: 'Choose one that rings longer, or with less noise.',
    });
  }
  const arrival = arrivalOf(paths);
  const reflections = reflectionsOf(paths, sampleRate);
  const c80 = clarityOf(reflections, C80_SECONDS, sampleRate);
  const tone = toneOf(reflections, sampleRate);
  const middle = seen.reduce((best, one) =>
    Math.abs(Math.log(one.centreHz / 1000)) < Math.abs(Math.log(best.centreHz / 1000)) ? one : best,
  );
  const longest = Math.max(...seen.map(({ t30 }) => t30));
  const decay = between(LEAST_DECAY, MOST_DECAY, Math.max(middle.t30, longest / MOST_FACTOR));
  const factors = new Map(seen.map(({ centreHz, t30 }) => [centreHz, between(LEAST_FACTOR, MOST_FACTOR, t30 / decay)]));
  const size = between(2, 120, firstReflections(reflections, arrival, sampleRate) * SOUND_SPEED * 1.5);
  let earlyLate = 60;
  let [wetLow, wetHigh] = [0, 0];
  const valuesNow = (): Record<string, ParameterValue> => ({
    preDelay: between(0, 500, Math.round((arrival / sampleRate) * 1000)),
    size: Number(size.toFixed(1)),
    decay: Number(decay.toFixed(3)),
    decayOctaves: [...factors].map(([hz, factor]) => `${hz}:${factor.toFixed(3)}`).join(','),
    earlyLate: Math.round(earlyLate),
    wetLow: Number(wetLow.toFixed(1)),
    wetHigh: Number(wetHigh.toFixed(1)),
    modDepth: 10,
  });
  let best: { values: Record<string, ParameterValue>; got: RoomMeasures; octaves: MatchedOctave[] } | null = null;
  for (let round = 0; round < ROUNDS; round++) {
    const values = valuesNow();
    const answer = yield* partOf(answerOf(values, sampleRate), round / ROUNDS, 1 / ROUNDS);
    const got = measureRoom(answer, sampleRate);
    const octaves = wanted.octaves.map(({ centreHz, t30 }): MatchedOctave => {
      const own = got.octaves.find((one) => one.centreHz === centreHz)?.t30 ?? null;
      const matches = t30 !== null && own !== null && Math.abs(own / t30 - 1) <= WITHIN;
      return { centreHz, wanted: t30, got: own, matches };
    });
    const count = (all: readonly MatchedOctave[]) => all.filter(({ matches }) => matches).length;
    if (!best || count(octaves) >= count(best.octaves)) best = { values, got, octaves };
    for (const { centreHz, wanted: aim, got: own } of octaves) {
      const factor = factors.get(centreHz);
      if (factor === undefined || aim === null || own === null) continue;
      factors.set(centreHz, between(LEAST_FACTOR, MOST_FACTOR, factor * (aim / own)));
    }
    // Early and late are mixed at equal power: the ratio of their energies goes as the square of a tangent.
    const turn = Math.tan((between(2, 98, earlyLate) / 100) * (Math.PI / 2));
    const missing = clarityOf(answer, C80_SECONDS, sampleRate) - c80;
    earlyLate = between(0, 100, (Math.atan(turn * 10 ** (missing / 20)) / (Math.PI / 2)) * 100);
    const own = toneOf(answer, sampleRate);
    wetLow = between(-MOST_SHELF_DB, MOST_SHELF_DB, wetLow + tone.low - own.low);
    wetHigh = between(-MOST_SHELF_DB, MOST_SHELF_DB, wetHigh + tone.high - own.high);
  }
  return { ...best!, wanted, notes: notesOn(best!.octaves) };
}

function notesOn(octaves: readonly MatchedOctave[]): string[] {
  const name = (hz: number) => (hz < 1000 ? `${hz} Hz` : `${hz / 1000} kHz`);
  const unseen = octaves.filter(({ wanted }) => wanted === null).map(({ centreHz }) => name(centreHz));
  const apart = octaves.filter(({ wanted, matches }) => wanted !== null && !matches);
  return [
    ...(unseen.length > 0 ? [`The impulse does not tell its decay at ${unseen.join(', ')}.`] : []),
    ...apart.map(({ centreHz, wanted, got }) =>
      got === null
        ? `At ${name(centreHz)} the reverb cannot be measured.`
        : `At ${name(centreHz)} the reverb rings for ${got.toFixed(2)} s instead of ${wanted!.toFixed(2)} s.`,
    ),
  ];
}
