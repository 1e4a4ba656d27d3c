import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pitchCourse } from '../src/core/analysis/pitch';
import { StateVariableFilter, type FilterType } from '../src/core/dsp/stateVariableFilter';
import { resample } from '../src/core/dsp/resampler';
import { readWav } from '../src/core/formats/wav';
import { SeededRandom } from '../src/core/math/random';
import { sinc } from '../src/core/math/windows';
import { blank } from './instruments';
import { pitchOf, RATE, SECONDS_PER_BEAT, SONG } from './score';

/** espeak-ng speaks at 22.05 kHz: all of it is kept. */
const ANALYSIS_RATE = 24000;
const ORDER = 26;
const HOP = 120;
const HOP_SECONDS = HOP / ANALYSIS_RATE;
const WINDOW = 600;
const EMPHASIS = 0.92;
/** Periods of a speaking voice, in frames. */
const SHORTEST_PERIOD = 70;
const LONGEST_PERIOD = 360;
/** Crossings of zero within a window above which a sound hisses. */
const HISSING = 170;
/** Frames on each side of a pulse of the folds. */
const PULSE_SIDE = 12;
/** Level of the breath noise against the pulses, while the folds are open. */
const BREATH = 0.1;
/**
 * The speech program's vowels end at 4 kHz. Above that the pulses pass through formants of our own, about 1 kHz apart as those
 * of a 17 cm tube; their level follows the vowel's between 2.4 and 3.6 kHz.
 */
const UPPER_HZ = 3800;
const UPPER_GAIN = 0.55;
const RESONANCES: readonly (readonly [hz: number, q: number, gain: number])[] = [
  [4300, 9, 1],
  [5300, 9, -0.8],
  [6400, 8, 0.6],
  [7600, 8, -0.45],
  [9000, 7, 0.3],
  [10800, 6, -0.2],
  [13000, 5, 0.14],
];
const VOWEL_HZ = [2400, 2700, 3000, 3300, 3600];
/** Noise of our own from where the analysis ends to `AIR_END_HZ`, at the level that the tract has at `AIR_FROM_HZ`. */
const AIR_HZ = 10200;
const AIR_END_HZ = 14500;
const AIR_FROM_HZ = 9800;
const AIR_CUTS = [
  ['highPass', AIR_HZ],
  ['highPass', AIR_HZ],
  ['lowPass', AIR_END_HZ],
] as const;

/** Lets Debian's espeak-ng speak a text; its samples at a rate. */
function speak(text: string, rate: number, options: readonly string[]): Float32Array {
  const folder = mkdtempSync(join(tmpdir(), 'voice-'));
  const path = join(folder, 'speech.wav');
  execFileSync('espeak-ng', [...options, '-w', path, text]);
  const sound = readWav(new Uint8Array(readFileSync(path)), 'speech');
  rmSync(folder, { recursive: true });
  return resample(sound.channels[0]!, sound.sampleRateHz, rate)!;
}

interface Frame {
  /** Reflection coefficients of the vocal tract. */
  readonly tract: Float64Array;
  readonly level: number;
  /** 0 noise to 1 tone. */
  readonly voiced: number;
  /** Gain of the tract at `AIR_FROM_HZ`. */
  readonly air: number;
  /** Gain of the tract over `VOWEL_HZ`, RMS. */
  readonly upper: number;
}

/** Linear prediction by the autocorrelation method (Makhoul, "Linear prediction: a tutorial review", 1975). */
function analyse(speech: Float32Array): Frame[] {
  const frames: Frame[] = [];
  for (let start = 0; start + WINDOW <= speech.length; start += HOP) {
    const block = Float64Array.from({ length: WINDOW }, (_, i) => {
      const x = speech[start + i]! - EMPHASIS * (speech[start + i - 1] ?? 0);
      return x * (0.54 - 0.46 * Math.cos((2 * Math.PI * i) / (WINDOW - 1)));
    });
    const r = Float64Array.from({ length: ORDER + 1 }, (_, lag) => {
      let sum = 0;
      for (let i = lag; i < WINDOW; i++) sum += block[i]! * block[i - lag]!;
      return sum;
    });
    let error = r[0]! * 1.0001 + 1e-9;
    const reflections = new Float64Array(ORDER);
    let a = new Float64Array(ORDER + 1);
    a[0] = 1;
    for (let m = 1; m <= ORDER; m++) {
      let sum = r[m]!;
      for (let i = 1; i < m; i++) sum += a[i]! * r[m - i]!;
      const k = Math.max(-0.995, Math.min(0.995, -sum / error));
      reflections[m - 1] = k;
      const next = a.slice();
      for (let i = 1; i <= m; i++) next[i] = a[i]! + k * (i === m ? 1 : a[m - i]!);
      a = next;
      error *= 1 - k * k;
    }
    let power = 0;
    let crossings = 0;
    let best = 0;
    for (let i = 1; i < WINDOW; i++) {
      power += speech[start + i]! ** 2;
      if (speech[start + i]! * speech[start + i - 1]! < 0) crossings++;
    }
    for (let lag = SHORTEST_PERIOD; lag < LONGEST_PERIOD; lag++) {
      let sum = 0;
      let one = 1e-9;
      let two = 1e-9;
      for (let i = lag; i < WINDOW; i++) {
        sum += speech[start + i]! * speech[start + i - lag]!;
        one += speech[start + i]! ** 2;
        two += speech[start + i - lag]! ** 2;
      }
      best = Math.max(best, sum / Math.sqrt(one * two));
    }
    const tonal = Math.max(0, Math.min(1, (best - 0.35) * 3)) * (crossings > HISSING ? 0.1 : 1);
    const level = Math.sqrt(error / WINDOW) * (power > 1e-4 ? 1 : 0.2);
    const response = (hz: number) => responseAt(a, hz / ANALYSIS_RATE);
    const upper = Math.hypot(...VOWEL_HZ.map(response)) / Math.sqrt(VOWEL_HZ.length);
    frames.push({ tract: reflections, level, voiced: tonal, air: response(AIR_FROM_HZ), upper });
  }
  return frames;
}

/** Gain of an all-pole tract with de-emphasis at a frequency in cycles per sample. */
function responseAt(a: Float64Array, turns: number): number {
  const sum = (taps: ArrayLike<number>) => {
    let [re, im] = [0, 0];
    for (let n = 0; n < taps.length; n++) {
      re += taps[n]! * Math.cos(2 * Math.PI * turns * n);
      im += taps[n]! * Math.sin(2 * Math.PI * turns * n);
    }
    return Math.hypot(re, im);
  };
  return 1 / (sum(a) * sum([1, -EMPHASIS]));
}

/** Place in a word's frames by time, with the vowel stretched to fill `seconds`; beginning and end keep their pace. */
function stretched(frames: readonly Frame[], seconds: number): (t: number) => number {
  const loud = frames.map((frame) => frame.level * frame.voiced);
  const peak = loud.indexOf(Math.max(...loud));
  const before = peak * HOP_SECONDS;
  const after = (frames.length - 1 - peak) * HOP_SECONDS;
  const squeeze = Math.min(1, (seconds * 0.9) / (before + after));
  const lead = before * squeeze;
  const tail = after * squeeze;
  return (t) => {
    if (t < lead) return (t / lead) * peak;
    if (t > seconds - tail) return peak + ((t - (seconds - tail)) / tail) * (frames.length - 1 - peak);
    const held = (t - lead) / Math.max(1e-6, seconds - tail - lead);
    return peak + Math.sin(held * Math.PI) * Math.min(2, frames.length - 1 - peak);
  };
}

/** The frames of a word as espeak-ng speaks it, without the silence around it. */
function framesOf(word: string): Frame[] {
  const all = analyse(speak(word, ANALYSIS_RATE, ['-v', 'en+m3', '-s', '120', '-p', '45']));
  const first = all.findIndex((frame) => frame.level > 0.002);
  const last = all.findLastIndex((frame) => frame.level > 0.002);
  return all.slice(first, last + 1);
}

/** A stretch of speech to be synthesised; `place` and `pitch` take seconds since its start. */
interface Utterance {
  readonly start: number;
  readonly seconds: number;
  readonly frames: readonly Frame[];
  /** Index into `frames`, with a fraction. */
  readonly place: (t: number) => number;
  /** Fundamental frequency in Hz. */
  readonly pitch: (t: number) => number;
}

/**
 * Speaks what has been analysed: pulses of a pitch and breath go through the vocal tract (lattice synthesis, Markel and Gray,
 * "Linear prediction of speech", 1976). What linear prediction leaves of speech is flat, so the pulses are, too; they hold
 * nothing above half the rate (Stilson and Smith, "Alias-free digital synthesis of classic analog waveforms", 1996).
 */
class Mouth {
  /** Output of the tract, and level of the noise above it, at `ANALYSIS_RATE`. */
  private readonly low: Float32Array;
  private readonly airs: Float32Array;
  /** Input of the upper formants, at `RATE`. */
  private readonly upper: Float64Array;
  /** Pulses of the folds from the frame on that comes next. */
  private readonly pulses = new Float64Array(2 * PULSE_SIDE);
  private readonly random: SeededRandom;
  private phase = 0;

  constructor(
    private readonly seconds: number,
    seed: number,
  ) {
    this.low = new Float32Array(Math.round(seconds * ANALYSIS_RATE));
    this.airs = new Float32Array(this.low.length);
    this.upper = new Float64Array(Math.round(seconds * RATE));
    this.random = new SeededRandom(seed);
  }

  /**
   * The output of the folds for one frame, of power 1.
   * @param step turns of the folds in a frame
   * @param above takes a pulse into the upper voice: frames since it
   */
  private fold(step: number, above: (late: number) => void): number {
    const { pulses } = this;
    pulses.copyWithin(0, 1);
    pulses[2 * PULSE_SIDE - 1] = 0;
    this.phase += step;
    if (this.phase >= 1) {
      this.phase -= 1;
      const late = this.phase / step;
      addPulse(pulses, 0, PULSE_SIDE - late, 1 / Math.sqrt(step));
      above(late);
    }
    return pulses[0]!;
  }

  utter({ start, seconds, frames, place, pitch }: Utterance): void {
    const { low, airs, upper, random } = this;
    const first = Math.round(start * ANALYSIS_RATE);
    const twice = RATE / ANALYSIS_RATE;
    const backward = new Float64Array(ORDER + 1);
    let [gain, emphasis] = [0, 0];
    for (let i = 0; i < seconds * ANALYSIS_RATE && first + i < low.length; i++) {
      const t = i / ANALYSIS_RATE;
      const at = Math.min(frames.length - 1, place(t));
      const a = frames[Math.floor(at)]!;
      const b = frames[Math.min(frames.length - 1, Math.floor(at) + 1)]!;
      const between = (x: number, y: number) => x + (at - Math.floor(at)) * (y - x);
      const voiced = between(a.voiced, b.voiced);
      const edge = Math.min(1, t / 0.006, (seconds - t) / 0.05);
      gain += 0.02 * (between(a.level, b.level) - gain);
      const step = pitch(t) / ANALYSIS_RATE;
      const strength = UPPER_GAIN * voiced * gain * edge * between(a.upper, b.upper);
      const pulse = this.fold(step, (late) => {
        addPulse(upper, twice * (first + i), twice * (PULSE_SIDE - late), strength * Math.sqrt(twice / step));
      });
      // Breath sounds most where the folds are open.
      const breath = 1.7 * random.bipolar();
      const open = BREATH * this.phase;
      for (let n = 0; n < twice; n++)
        upper[twice * (first + i + PULSE_SIDE) + n]! += strength * open * 1.7 * random.bipolar();
      const source = voiced * (pulse + open * breath) + (1 - voiced) * breath;
      let forward = source * gain;
      for (let m = ORDER - 1; m >= 0; m--) {
        const k = between(a.tract[m]!, b.tract[m]!);
        forward -= k * backward[m]!;
        backward[m + 1] = backward[m]! + k * forward;
      }
      backward[0] = forward;
      emphasis = forward + EMPHASIS * emphasis;
      low[first + i]! += emphasis * edge;
      airs[first + i]! += between(a.air, b.air) * gain * edge * (voiced * open + (1 - voiced));
    }
  }

  /** All that was uttered at the rate of the demo, with what lies above the analysis. */
  sound(): Float32Array {
    const { low, airs, upper, random, seconds } = this;
    const voice = resample(low, ANALYSIS_RATE, RATE)!;
    const strength = resample(airs, ANALYSIS_RATE, RATE)!;
    const out = blank(seconds);
    for (let n = 0; n < 2; n++) filtered(upper, 'highPass', UPPER_HZ, Math.SQRT1_2);
    for (const [hz, q, gain] of RESONANCES) {
      const resonance = filtered(upper.slice(), 'bandPass', hz, q);
      for (let i = 0; i < out.length; i++) out[i]! += gain * resonance[i]!;
    }
    // Twice the rate holds half the power in as wide a band.
    const air = Float64Array.from({ length: out.length }, () => 1.7 * Math.SQRT2 * random.bipolar());
    for (const [type, hz] of AIR_CUTS) filtered(air, type, hz, Math.SQRT1_2);
    let [blocked, before] = [0, 0];
    for (let i = 0; i < Math.min(out.length, voice.length); i++) {
      // Offsets go.
      blocked = 0.995 * (blocked + voice[i]! - before);
      before = voice[i]!;
      out[i]! += blocked + air[i]! * Math.max(0, strength[i]!);
    }
    return out;
  }
}

/** Filters a whole sound at the rate of the demo, in place. */
function filtered(sound: Float64Array, type: FilterType, hz: number, q: number): Float64Array {
  const filter = new StateVariableFilter(RATE);
  filter.configure(type, hz, q);
  filter.process(sound, sound.length);
  return sound;
}

/** Adds a pulse that holds nothing above half the rate, `place` frames after the frame `from`. */
function addPulse(out: Float64Array, from: number, place: number, level: number): void {
  const nearest = Math.round(place);
  for (let n = nearest - PULSE_SIDE; n <= nearest + PULSE_SIDE; n++) {
    const away = n - place;
    if (Math.abs(away) >= PULSE_SIDE || from + n < 0 || from + n >= out.length) continue;
    out[from + n]! += level * sinc(away) * (0.5 + 0.5 * Math.cos((Math.PI * away) / PULSE_SIDE));
  }
}

/** The sung voice: the words of espeak-ng on the melody's pitch, with slides, a late vibrato and breath. */
export function sing(seconds: number): Float32Array {
  const mouth = new Mouth(seconds, 21);
  const words = new Map<string, Frame[]>();
  let lastPitch = pitchOf('A3');
  for (const [word, beat, beats, name] of SONG) {
    const frames = words.get(word) ?? framesOf(word);
    words.set(word, frames);
    const length = beats * SECONDS_PER_BEAT;
    const pitch = pitchOf(name);
    const from = lastPitch;
    mouth.utter({
      start: beat * SECONDS_PER_BEAT,
      seconds: length,
      frames,
      place: stretched(frames, length),
      pitch: (t) => {
        const slide = (from - pitch) * 0.6 * Math.exp(-t / 0.045);
        const vibrato = 0.22 * Math.max(0, Math.min(1, (t - 0.35) / 0.5)) * Math.sin(2 * Math.PI * 5.1 * t);
        const drift = 0.04 * Math.sin(2 * Math.PI * 0.9 * t + beat);
        return 440 * 2 ** ((pitch + slide + vibrato + drift - 69) / 12);
      },
    });
    lastPitch = pitch;
  }
  return mouth.sound();
}

/** The announcer, who speaks a text at the pace and pitch of espeak-ng. */
export function announce(text: string, start: number, seconds: number): Float32Array {
  const speech = speak(text, ANALYSIS_RATE, ['-v', 'en+f4', '-s', '145', '-p', '38']);
  const frames = analyse(speech);
  const course = pitchCourse(speech, ANALYSIS_RATE, 120, 400);
  // Without a pitch the last one goes on.
  const pitches = course.hz.slice();
  pitches.forEach((hz, n) => (pitches[n] = hz || pitches[n - 1] || course.hz.find((one) => one > 0)!));
  const mouth = new Mouth(seconds, 22);
  mouth.utter({
    start,
    seconds: speech.length / ANALYSIS_RATE,
    frames,
    place: (t) => Math.max(0, t / HOP_SECONDS - WINDOW / HOP / 2),
    pitch: (t) => {
      const at = Math.min(pitches.length - 1.001, t / course.hopSeconds);
      const [a, b] = [pitches[Math.floor(at)]!, pitches[Math.floor(at) + 1]!];
      return a + (at - Math.floor(at)) * (b - a);
    },
  });
  return mouth.sound();
}
