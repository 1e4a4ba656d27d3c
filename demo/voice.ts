import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { resample } from '../src/core/dsp/resampler';
import { readWav } from '../src/core/formats/wav';
import { SeededRandom } from '../src/core/math/random';
import { blank } from './instruments';
import { pitchOf, RATE, SECONDS_PER_BEAT, SONG } from './score';

const ANALYSIS_RATE = 16000;
const ORDER = 18;
const HOP = 80;
const WINDOW = 400;

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
      const x = speech[start + i]! - 0.9 * (speech[start + i - 1] ?? 0);
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
    for (let lag = 70; lag < 240; lag++) {
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
    const tonal = Math.max(0, Math.min(1, (best - 0.35) * 3)) * (crossings > 130 ? 0.1 : 1);
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

/**
 * The sung voice: each word of espeak-ng is analysed as a vocal tract, and a glottal pulse train on the melody's pitch,
 * with slides, a late vibrato and breath, is sent through it (lattice synthesis, Markel and Gray 1976).
 */
export function sing(seconds: number): Float32Array {
  const low = new Float32Array(Math.round(seconds * ANALYSIS_RATE));
  const random = new SeededRandom(21);
  const words = new Map<string, Frame[]>();
  let phase = 0;
  let lastPitch = pitchOf('A3');
  for (const [word, beat, beats, name] of SONG) {
    let frames = words.get(word);
    if (!frames) {
      const speech = speak(word, ANALYSIS_RATE, ['-v', 'en+m3', '-s', '120', '-p', '45']);
      const all = analyse(speech);
      const first = all.findIndex((frame) => frame.level > 0.002);
      const last = all.findLastIndex((frame) => frame.level > 0.002);
      frames = all.slice(first, last + 1);
      words.set(word, frames);
    }
    const length = beats * SECONDS_PER_BEAT;
    const pitch = pitchOf(name);
    const start = Math.round(beat * SECONDS_PER_BEAT * ANALYSIS_RATE);
    const backward = new Float64Array(ORDER + 1);
    let gain = 0;
    let emphasis = 0;
    for (let i = 0; i < length * ANALYSIS_RATE && start + i < low.length; i++) {
      const t = i / ANALYSIS_RATE;
      const place = frameAt(frames, t, length);
      const a = frames[Math.floor(place)]!;
      const b = frames[Math.min(frames.length - 1, Math.floor(place) + 1)]!;
      const mixing = place - Math.floor(place);
      const slide = Math.exp(-t / 0.045);
      const vibrato = 0.22 * Math.max(0, Math.min(1, (t - 0.35) / 0.5)) * Math.sin(2 * Math.PI * 5.1 * t);
      const drift = 0.04 * Math.sin(2 * Math.PI * 0.9 * t + beat);
      phase += (440 * 2 ** ((pitch + (lastPitch - pitch) * slide * 0.6 + vibrato + drift - 69) / 12)) / ANALYSIS_RATE;
      phase -= Math.floor(phase);
      // Derivative of a Rosenberg pulse (1971) with an open quotient of 0.6, smoothed by its own shape.
      const open = phase / 0.6;
      const pulse = open < 1 ? 3.2 * (2 * open - 3 * open * open) : 0.02 * random.bipolar();
      const breath = random.bipolar();
      const voiced = a.voiced + mixing * (b.voiced - a.voiced);
      const source = voiced * (pulse + 0.06 * breath) + (1 - voiced) * breath * 0.9;
      gain += 0.02 * (a.level + mixing * (b.level - a.level) - gain);
      let forward = source * gain;
      for (let m = ORDER - 1; m >= 0; m--) {
        const k = a.tract[m]! + mixing * (b.tract[m]! - a.tract[m]!);
        forward -= k * backward[m]!;
        backward[m + 1] = backward[m]! + k * forward;
      }
      backward[0] = forward;
      emphasis = forward + 0.9 * emphasis;
      const edge = Math.min(1, t / 0.012, (length - t) / 0.05);
      low[start + i]! += emphasis * edge;
    }
    lastPitch = pitch;
  }
  const out = blank(seconds);
  out.set(resample(low, ANALYSIS_RATE, RATE)!.subarray(0, out.length));
  // A little air above what the analysis carries, following the voice.
  let envelope = 0;
  let dark = 0;
  let blocked = 0;
  let lastIn = 0;
  for (let i = 0; i < out.length; i++) {
    envelope += 0.002 * (Math.abs(out[i]!) - envelope);
    const hiss = random.bipolar();
    dark += 0.35 * (hiss - dark);
    blocked = 0.995 * (blocked + out[i]! - lastIn);
    lastIn = out[i]!;
    out[i] = blocked + (hiss - dark) * envelope * 0.07;
  }
  return out;
}
