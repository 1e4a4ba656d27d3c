import { SeededRandom } from '../src/core/math/random';
import { RATE, SECONDS_PER_BEAT, type Note } from './score';

const hz = (pitch: number) => 440 * 2 ** ((pitch - 69) / 12);
const at = (beat: number) => Math.round(beat * SECONDS_PER_BEAT * RATE);

/** Room for a whole take with the last notes ringing out. */
export const blank = (seconds: number) => new Float32Array(Math.round(seconds * RATE));

/** Scales a sound so that its highest sample lies at a level in dBFS, without any offset. */
export function normalise(channels: readonly Float32Array[], peakDb: number): void {
  let peak = 0;
  for (const channel of channels) for (const x of channel) peak = Math.max(peak, Math.abs(x));
  const gain = 10 ** (peakDb / 20) / peak;
  for (const channel of channels) for (let i = 0; i < channel.length; i++) channel[i]! *= gain;
}

const NAIL_FRAMES = Math.round(0.006 * RATE);

/**
 * Plucked string: a delay loop with a gentle low-pass and all-pass tuning (Karplus and Strong 1983; Jaffe and Smith
 * 1983), struck at a seventh of its length by a nail that is heard for a moment.
 */
export function harp(notes: readonly Note[], seconds: number): Float32Array {
  const out = blank(seconds);
  notes.forEach((note, index) => {
    const random = new SeededRandom(index + 1);
    const period = RATE / hz(note.pitch);
    const whole = Math.floor(period - 0.75);
    const fraction = period - 0.5 - whole;
    const allpass = (1 - fraction) / (1 + fraction);
    const loop = new Float64Array(whole);
    let soft = 0;
    for (let i = 0; i < whole; i++) {
      soft += (0.18 + 0.3 * note.level) * (random.bipolar() - soft);
      loop[i] = soft;
    }
    const pluck = Math.round(whole / 7);
    const shaped = loop.map((x, i) => x - loop[(i + whole - pluck) % whole]!);
    const loss = 0.001 ** (period / RATE / (2.6 * 2 ** ((60 - note.pitch) / 24)));
    let before = 0;
    let tuned = 0;
    let tunedIn = 0;
    let scraped = 0;
    const start = at(note.beat);
    const length = Math.min(out.length - start, Math.round(note.beats * 1.6 * SECONDS_PER_BEAT * RATE));
    const release = Math.round(0.3 * RATE);
    for (let i = 0; i < length; i++) {
      const x = shaped[i % whole]!;
      const damped = loss * (0.6 * x + 0.4 * before);
      before = x;
      const next = allpass * damped + tunedIn - allpass * tuned;
      tunedIn = damped;
      tuned = next;
      shaped[i % whole] = next;
      const fade = Math.min(1, (length - i) / release, i / 24);
      const noise = random.bipolar();
      const nail = i < NAIL_FRAMES ? 0.5 * (noise - scraped) * (1 - i / NAIL_FRAMES) ** 2 : 0;
      scraped = noise;
      out[start + i]! += x * note.level * fade + nail * note.level * note.level;
    }
  });
  return out;
}

/** Two reeds a few cents apart for each note, breathing slowly, one toward each side. */
export function organ(notes: readonly Note[], seconds: number): [Float32Array, Float32Array] {
  const sides: [Float32Array, Float32Array] = [blank(seconds), blank(seconds)];
  for (const note of notes) {
    const start = at(note.beat);
    const length = Math.round(note.beats * SECONDS_PER_BEAT * RATE);
    sides.forEach((side, right) => {
      const frequency = hz(note.pitch) * 2 ** ((right ? 4 : -4) / 1200);
      const partials = Math.min(40, Math.floor(11000 / frequency));
      const phases = Array.from({ length: partials + 1 }, (_, k) => (k * k * 1.7 + right * 2.1) % (2 * Math.PI));
      for (let i = 0; i < length && start + i < side.length; i++) {
        const t = i / RATE;
        const swell = Math.min(1, t / 0.35) * Math.min(1, (length - i) / (0.3 * RATE));
        const breath = 1 + 0.08 * Math.sin(2 * Math.PI * 0.23 * (start / RATE + t) + right);
        let sum = 0;
        for (let k = 1; k <= partials; k++) {
          const amplitude = (k % 2 === 1 ? 1 : 0.45) / k ** 1.35;
          sum += amplitude * Math.sin(2 * Math.PI * frequency * k * t + phases[k]!);
        }
        side[start + i]! += sum * note.level * swell * swell * breath * 0.1;
      }
    });
  }
  return sides;
}

/** A stopped pipe on a long wind: odd partials, the lowest by far the strongest, that swell with the tide, and some wind. */
export function pedal(notes: readonly Note[], seconds: number): Float32Array {
  const out = blank(seconds);
  const random = new SeededRandom(41);
  let wind = 0;
  let calm = 0;
  for (const note of notes) {
    const start = at(note.beat);
    const length = Math.round((note.beats + 0.3) * SECONDS_PER_BEAT * RATE);
    const turn = (2 * Math.PI * hz(note.pitch)) / RATE;
    for (let i = 0; i < length && start + i < out.length; i++) {
      const t = i / RATE;
      const edge = Math.min(1, t / 0.14) * Math.min(1, (length - i) / (0.3 * SECONDS_PER_BEAT * RATE));
      const tide = 0.86 + 0.14 * Math.sin((2 * Math.PI * (start + i)) / (6 * SECONDS_PER_BEAT * RATE));
      // Upper partials speak a little later, as in a pipe.
      const spoken = 1 - Math.exp(-t / 0.09);
      let sum = Math.sin(turn * i);
      for (let k = 2; k <= 12; k++) {
        sum += (k % 2 === 1 ? 0.9 : 0.3) * spoken * k ** -1.8 * Math.sin(turn * k * i + 0.7 * k * k);
      }
      wind += 0.08 * (random.bipolar() - wind);
      calm += 0.01 * (wind - calm);
      out[start + i]! += (sum + 0.05 * (wind - calm)) * note.level * tide * edge * edge * (3 - 2 * edge) * 0.4;
    }
  }
  return out;
}

/** A bowed blade: one strong mode with faint others, sliding between notes, vibrato that opens, and the bow's rosin. */
export function saw(notes: readonly Note[], seconds: number): Float32Array {
  const out = blank(seconds);
  const random = new SeededRandom(77);
  let phase = 0;
  let hiss = 0;
  notes.forEach((note, index) => {
    const previous = notes[index - 1];
    const joined = previous && note.beat - (previous.beat + previous.beats) < 0.2;
    const from = joined ? previous.pitch : note.pitch - 1.5;
    const start = at(note.beat);
    const length = Math.round((note.beats + 0.5) * SECONDS_PER_BEAT * RATE);
    for (let i = 0; i < length && start + i < out.length; i++) {
      const t = i / RATE;
      const slide = Math.exp(-t / 0.07);
      const vibrato = 0.28 * Math.min(1, t / 0.8) * Math.sin(2 * Math.PI * 5.3 * t);
      phase += hz(note.pitch + (from - note.pitch) * slide + vibrato) / RATE;
      const noise = random.bipolar();
      hiss += 0.2 * (noise - hiss);
      // The bow catches at the beginning of a stroke, and lets go once in every turn of the blade.
      const rosin = (noise - hiss) * (0.035 + 0.16 * Math.exp(-t / 0.06)) * (phase - Math.floor(phase)) ** 2;
      const swell = Math.min(1, t / 0.3) * Math.min(1, (length - i) / (0.45 * RATE));
      const tone =
        Math.sin(2 * Math.PI * phase) +
        0.12 * Math.sin(4 * Math.PI * phase) +
        0.06 * Math.sin(2 * Math.PI * 2.76 * phase) +
        0.035 * Math.sin(2 * Math.PI * 5.4 * phase) +
        0.02 * Math.sin(2 * Math.PI * 8.93 * phase);
      const stroke = Math.min(1, t / 0.008) * Math.min(1, (length - i) / (0.45 * RATE));
      out[start + i]! += ((tone + hiss * 0.12) * swell * swell + rosin * stroke) * note.level * 0.5;
    }
  });
  return out;
}

interface Mode {
  readonly ratio: number;
  readonly level: number;
  readonly seconds: number;
}

function strike(out: Float32Array, note: Note, modes: readonly Mode[], attack: number, seed: number): void {
  const start = at(note.beat);
  const random = new SeededRandom(seed);
  const longest = Math.max(...modes.map((mode) => mode.seconds));
  const length = Math.min(out.length - start, Math.round(longest * RATE));
  for (const mode of modes) {
    const frequency = hz(note.pitch) * mode.ratio;
    if (frequency > 16000) continue;
    const turn = (2 * Math.PI * frequency) / RATE;
    for (let i = 0; i < length; i++) {
      out[start + i]! += Math.sin(turn * i) * mode.level * note.level * 0.001 ** (i / RATE / mode.seconds);
    }
  }
  for (let i = 0; i < attack * RATE && start + i < out.length; i++) {
    out[start + i]! += random.bipolar() * note.level * 0.5 * (1 - i / (attack * RATE)) ** 2;
  }
}

/** Thin plates: free bending modes of a bar with their neighbours (ratios of a free-free bar, Rayleigh 1894). */
export function tin(notes: readonly Note[], seconds: number): Float32Array {
  const out = blank(seconds);
  const modes = [
    { ratio: 1, level: 0.5, seconds: 0.28 },
    { ratio: 2.756, level: 0.5, seconds: 0.35 },
    { ratio: 2.91, level: 0.3, seconds: 0.3 },
    { ratio: 5.404, level: 0.35, seconds: 0.22 },
    { ratio: 8.933, level: 0.22, seconds: 0.14 },
    { ratio: 13.34, level: 0.12, seconds: 0.09 },
  ];
  notes.forEach((note, index) => strike(out, note, modes, 0.006, 500 + index));
  return out;
}

/** A bell: hum, prime, minor third, fifth and nominal, each pair slightly split so that it beats (Rossing 1984). */
export function bell(notes: readonly Note[], seconds: number): Float32Array {
  const out = blank(seconds);
  const modes = [
    [0.5, 0.5, 9],
    [1, 0.6, 7],
    [1.19, 0.55, 5],
    [1.5, 0.25, 3.5],
    [2, 0.5, 3],
    [2.5, 0.2, 1.6],
    [3.01, 0.2, 1.2],
    [4.1, 0.15, 0.8],
  ].flatMap(([ratio, level, seconds]) => [
    { ratio: ratio!, level: level! * 0.6, seconds: seconds! },
    { ratio: ratio! * 1.0017, level: level! * 0.4, seconds: seconds! * 0.9 },
  ]);
  notes.forEach((note, index) => strike(out, { ...note, pitch: note.pitch + 12 }, modes, 0.003, 900 + index));
  return out;
}
