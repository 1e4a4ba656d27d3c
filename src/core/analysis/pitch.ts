import { FilterPair } from '../dsp/filterPair';
import { DULL_HZ, QUIET } from '../dsp/pitchTracker';
import { Yin } from '../dsp/yin';
import { finished } from '../math/steps';
import { Arena } from '../wasm/arena';

/** The pitch of a sound over time, look by look. */
export interface PitchCourse {
  /** Seconds from one look to the next; the first is at 0. */
  readonly hopSeconds: number;
  /** In Hz; where there is no voice, 0. */
  readonly hz: Float64Array;
  /** 0 for none to 1 for a perfect period. */
  readonly confidence: Float64Array;
}

const HOP_SECONDS = 0.01;
const PIECE = 128;
const LOOKS_AT_A_TIME = 200;
/** Periods that are this unlike are not looked at; of the others so many. */
const UNLIKELY = 0.6;
const CANDIDATES = 10;
/** Costs in the path search: of an unvoiced frame, of a change between voiced and unvoiced, and of an octave. */
const UNVOICED_COST = 0.32;
const CHANGE_COST = 0.16;
const OCTAVE_COST = 1.4;
/** Cost of a period per octave above the shortest one searched: of two equally good ones the shorter wins. */
const LENGTH_COST = 0.06;

interface State {
  /** 0 for no voice. */
  readonly hz: number;
  readonly cost: number;
  readonly unlike: number;
}

/**
 * The pitch of a whole sound: of the periods that YIN finds in each look those are taken that make the smoothest course
 * (de Cheveigne and Kawahara 2002; the search after Mauch and Dixon, "pYIN: a fundamental frequency estimator using
 * probabilistic threshold distributions", ICASSP 2014).
 * @param samples one channel
 * @param lowHz,highHz the lowest and highest pitch looked for
 */
export function pitchCourse(samples: Float32Array, sampleRate: number, lowHz = 60, highHz = 1000): PitchCourse {
  return finished(pitchInSteps(samples, sampleRate, lowHz, highHz));
}

/** The same as a generator that yields its progress; one that does not go on to the end calls `return`. */
export function* pitchInSteps(
  samples: Float32Array,
  sampleRate: number,
  lowHz = 60,
  highHz = 1000,
): Generator<number, PitchCourse> {
  const memory = new Arena();
  try {
    const yin = new Yin(memory, sampleRate, lowHz);
    yin.limit(lowHz, highHz);
    const half = Math.round(yin.length / 2);
    const hop = HOP_SECONDS * sampleRate;
    const looks = Math.ceil(samples.length / hop);
    const dulled = dull(memory, samples, sampleRate, half, yin.length);
    const states: State[][] = [];
    for (let n = 0; n < looks; n++) {
      if (n % LOOKS_AT_A_TIME === 0) yield n / looks;
      states.push(statesAt(yin, dulled, Math.round(n * hop), highHz, sampleRate));
    }
    const path = cheapest(states);
    return {
      hopSeconds: HOP_SECONDS,
      hz: Float64Array.from(path, ({ hz }) => hz),
      confidence: Float64Array.from(path, ({ unlike }) => Math.max(0, 1 - unlike)),
    };
  } finally {
    memory.free();
  }
}

/** The sound without what does not help, with room before and behind. */
function dull(memory: Arena, samples: Float32Array, sampleRate: number, before: number, behind: number): Float64Array {
  const filter = new FilterPair(memory, sampleRate);
  filter.configureBoth('lowPass', DULL_HZ, Math.SQRT1_2);
  const [block, spare] = [memory.doubles(PIECE), memory.doubles(PIECE)];
  const dulled = new Float64Array(before + samples.length + behind);
  for (let at = 0; at < samples.length; at += PIECE) {
    const count = Math.min(PIECE, samples.length - at);
    for (let i = 0; i < count; i++) block[i] = samples[at + i]!;
    filter.process(block, spare, count);
    dulled.set(block.subarray(0, count), before + at);
  }
  return dulled;
}

function statesAt(yin: Yin, dulled: Float64Array, from: number, highHz: number, sampleRate: number): State[] {
  const silence: State = { hz: 0, cost: UNVOICED_COST, unlike: 1 };
  let power = 0;
  for (let n = from; n < from + yin.length; n++) power += dulled[n]! * dulled[n]!;
  if (power < QUIET * QUIET * yin.length) return [{ ...silence, cost: 0 }];
  yin.compare(dulled, from);
  const found: State[] = [];
  for (let lag = yin.shortest; lag <= yin.longest; lag++) {
    if (yin.difference[lag]! > UNLIKELY || !yin.isLow(lag)) continue;
    const { frames, unlike } = yin.around(lag);
    const hz = sampleRate / frames;
    found.push({ hz, unlike, cost: unlike + LENGTH_COST * Math.max(0, Math.log2(highHz / hz)) });
  }
  found.sort((a, b) => a.cost - b.cost);
  return [silence, ...found.slice(0, CANDIDATES)];
}

function moveCost(a: State, b: State): number {
  if (a.hz === 0 || b.hz === 0) return a.hz === b.hz ? 0 : CHANGE_COST;
  return OCTAVE_COST * Math.min(1, Math.abs(Math.log2(b.hz / a.hz)));
}

/** The course of one state a look that costs least as a whole (Viterbi, 1967). */
function cheapest(states: readonly (readonly State[])[]): State[] {
  let costs: number[] = states[0]?.map(({ cost }) => cost) ?? [];
  const came: number[][] = [];
  for (let n = 1; n < states.length; n++) {
    const back: number[] = [];
    costs = states[n]!.map((state) => {
      let best = 0;
      let least = Infinity;
      states[n - 1]!.forEach((before, k) => {
        const cost = costs[k]! + moveCost(before, state);
        if (cost < least) [least, best] = [cost, k];
      });
      back.push(best);
      return least + state.cost;
    });
    came.push(back);
  }
  let at = costs.indexOf(Math.min(...costs));
  const path: State[] = [];
  for (let n = states.length - 1; n >= 0; n--) {
    path.push(states[n]![at]!);
    at = came[n - 1]?.[at] ?? 0;
  }
  return path.reverse();
}
