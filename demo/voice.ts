import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { resample } from '../src/core/dsp/resampler';
import { readWav } from '../src/core/formats/wav';
import { SeededRandom } from '../src/core/math/random';
import { blank } from './instruments';
import { pitchOf, RATE, SECONDS_PER_BEAT, SONG } from './score';

/** espeak-ng speaks at 22.05 kHz: all of it is kept. */
const ANALYSIS_RATE = 24000;
const ORDER = 26;
const HOP = 120;
const WINDOW = 600;
const EMPHASIS = 0.92;
/** Periods of a speaking voice, in frames. */
const SHORTEST_PERIOD = 105;
const LONGEST_PERIOD = 360;
/** Crossings of zero within a window above which a sound hisses. */
const HISSING = 170;

/** Lets Debian's espeak-ng speak a text; its samples at a rate. */
export function speak(text: string, rate: number, options: readonly string[]): Float32Array {
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
    frames.push({ tract: reflections, level: Math.sqrt(error / WINDOW) * (power > 1e-4 ? 1 : 0.2), voiced: tonal });
  }
  return frames;
}

/** Plays a word's frames over a length: beginning and end at their own pace, the vowel stretched. */
function frameAt(frames: readonly Frame[], t: number, seconds: number): number {
  const step = HOP / ANALYSIS_RATE;
  const loud = frames.map((frame) => frame.level * frame.voiced);
  const peak = loud.indexOf(Math.max(...loud));
  const before = peak * step;
  const after = (frames.length - 1 - peak) * step;
  const squeeze = Math.min(1, (seconds * 0.9) / (before + after));
  const lead = before * squeeze;
  const tail = after * squeeze;
  if (t < lead) return (t / lead) * peak;
  if (t > seconds - tail) return peak + ((t - (seconds - tail)) / tail) * (frames.length - 1 - peak);
  const held = (t - lead) / Math.max(1e-6, seconds - tail - lead);
  return peak + Math.sin(held * Math.PI) * Math.min(2, frames.length - 1 - peak);
}

/** The frames of a word as espeak-ng speaks it, without the silence around it. */
function framesOf(word: string): Frame[] {
  const all = analyse(speak(word, ANALYSIS_RATE, ['-v', 'en+m3', '-s', '120', '-p', '45']));
  const first = all.findIndex((frame) => frame.level > 0.002);
  const last = all.findLastIndex((frame) => frame.level > 0.002);
  return all.slice(first, last + 1);
}

/**
 * The sung voice: each word of espeak-ng is analysed as a vocal tract, and pulses on the melody's pitch, with slides, a
 * late vibrato and breath, are sent through it (lattice synthesis, Markel and Gray 1976). What linear prediction leaves
 * of speech is flat, so that the pulses are nearly flat too.
 */
export function sing(seconds: number): Float32Array {
  const low = new Float32Array(Math.round(seconds * ANALYSIS_RATE));
  const hissing = new Float32Array(low.length);
  const random = new SeededRandom(21);
  const words = new Map<string, Frame[]>();
  let phase = 0;
  let lastPitch = pitchOf('A3');
  for (const [word, beat, beats, name] of SONG) {
    let frames = words.get(word);
    if (!frames) words.set(word, (frames = framesOf(word)));
    const length = beats * SECONDS_PER_BEAT;
    const pitch = pitchOf(name);
    const start = Math.round(beat * SECONDS_PER_BEAT * ANALYSIS_RATE);
    const backward = new Float64Array(ORDER + 1);
    let gain = 0;
    let emphasis = 0;
    let carried = 0;
    let soft = 0;
    for (let i = 0; i < length * ANALYSIS_RATE && start + i < low.length; i++) {
      const t = i / ANALYSIS_RATE;
      const place = frameAt(frames, t, length);
      const a = frames[Math.floor(place)]!;
      const b = frames[Math.min(frames.length - 1, Math.floor(place) + 1)]!;
      const mixing = place - Math.floor(place);
      const slide = Math.exp(-t / 0.045);
      const vibrato = 0.22 * Math.max(0, Math.min(1, (t - 0.35) / 0.5)) * Math.sin(2 * Math.PI * 5.1 * t);
      const drift = 0.04 * Math.sin(2 * Math.PI * 0.9 * t + beat);
      const step =
        (440 * 2 ** ((pitch + (lastPitch - pitch) * slide * 0.6 + vibrato + drift - 69) / 12)) / ANALYSIS_RATE;
      phase += step;
      // A pulse between two frames is shared out between them.
      let pulse = carried;
      carried = 0;
      if (phase >= 1) {
        phase -= 1;
        const late = phase / step;
        pulse += (1 - late) / Math.sqrt(step);
        carried = late / Math.sqrt(step);
      }
      soft += 0.55 * (pulse - soft);
      const breath = 1.7 * random.bipolar();
      const voiced = a.voiced + mixing * (b.voiced - a.voiced);
      // Breath sounds most where the folds are open.
      const source = voiced * (soft * 1.3 + 0.1 * phase * breath) + (1 - voiced) * breath;
      gain += 0.02 * (a.level + mixing * (b.level - a.level) - gain);
      let forward = source * gain;
      for (let m = ORDER - 1; m >= 0; m--) {
        const k = a.tract[m]! + mixing * (b.tract[m]! - a.tract[m]!);
        forward -= k * backward[m]!;
        backward[m + 1] = backward[m]! + k * forward;
      }
      backward[0] = forward;
      emphasis = forward + EMPHASIS * emphasis;
      const edge = Math.min(1, t / 0.006, (length - t) / 0.05);
      low[start + i]! += emphasis * edge;
      hissing[start + i]! += (1.2 * voiced * phase + (1 - voiced)) * gain * edge;
    }
    lastPitch = pitch;
  }
  return withAir(resample(low, ANALYSIS_RATE, RATE)!, resample(hissing, ANALYSIS_RATE, RATE)!, blank(seconds), random);
}

/** Adds the air above what the analysis carries, as loud as the breath is, and takes any offset away. */
function withAir(voice: Float32Array, hissing: Float32Array, out: Float32Array, random: SeededRandom): Float32Array {
  let once = 0;
  let twice = 0;
  let blocked = 0;
  let lastIn = 0;
  for (let i = 0; i < Math.min(out.length, voice.length); i++) {
    // Two high-passes at 6 kHz.
    const noise = random.bipolar();
    once += 0.54 * (noise - once);
    const high = noise - once;
    twice += 0.54 * (high - twice);
    blocked = 0.995 * (blocked + voice[i]! - lastIn);
    lastIn = voice[i]!;
    out[i] = blocked + (high - twice) * Math.max(0, hissing[i]!) * 5;
  }
  return out;
}
