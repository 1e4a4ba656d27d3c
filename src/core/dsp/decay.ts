import { cos, dbToGain, log } from '../math/elementary';
import { octavesAt, splitOctaves } from './octaves';

/** 10 / ln(10): from the logarithm of a power to decibels. */
const POWER_DB = 4.342944819032518;
/** Sound has arrived where it comes within this much of its peak (ISO 3382-1). */
const ARRIVAL_DB = -20;
/** A decay is fitted down to this far above the noise. */
const OVER_NOISE_DB = 8;
/** Peak under which an impulse response counts as silent: -200 dBFS. */
const SILENCE = 1e-10;
/** Shortest decay of an octave that is told, in cycles of its centre: the filter's own takes ten. */
const SHORTEST_CYCLES = 12;
const ECHO_WINDOW_SECONDS = 0.02;
/** The share of normal noise that lies outside of one standard deviation. */
const OUTSIDE = 0.31731050786291415;

export interface OctaveDecay {
  readonly centreHz: number;
  /** Seconds in which sound falls by 60 dB, from -5 to -35 dB; null when that cannot be seen. */
  readonly t30: number | null;
  /** The same from the first 10 dB. */
  readonly edt: number | null;
}

export interface RoomMeasures {
  readonly octaves: readonly OctaveDecay[];
  readonly t30: number | null;
  readonly edt: number | null;
  /** Early to late energy in dB, parted at 50 and 80 ms after the first arrival. */
  /** Nothing is heard: the other figures are those of nothing. */
  readonly silent: boolean;
  readonly c50: number;
  readonly c80: number;
  /** From the beginning to the first arrival. */
  readonly arrivalSeconds: number;
  /** From the first arrival until echoes lie as close as in noise; null when they never do. */
  readonly denseSeconds: number | null;
}

type Channels = readonly ArrayLike<number>[];

/** Energy frame by frame, both channels together. */
function energyOf(channels: Channels): Float64Array {
  const energy = new Float64Array(channels[0]!.length);
  for (const channel of channels) {
    for (let n = 0; n < energy.length; n++) energy[n] = energy[n]! + channel[n]! * channel[n]!;
  }
  return energy;
}

/** The largest magnitude of all channels. */
function peakOf(channels: Channels): number {
  let peak = 0;
  for (const channel of channels) for (let n = 0; n < channel.length; n++) peak = Math.max(peak, Math.abs(channel[n]!));
  return peak;
}

/** Frame of the first arrival. */
export function arrivalOf(channels: Channels): number {
  const peak = peakOf(channels);
  const enough = peak * dbToGain(ARRIVAL_DB);
  const length = channels[0]!.length;
  for (let n = 0; n < length; n++)
    if (channels.some((channel) => Math.abs(channel[n]!) >= enough && peak > 0)) return n;
  return 0;
}

interface Ending {
  /** Frame at which the decay reaches the noise. */
  readonly end: number;
  /** The noise's energy a frame. */
  readonly floor: number;
  /** Peak over the noise, or over the level at the end of the sound, in dB. */
  readonly rangeDb: number;
}

/** Intersection of a decay with its noise floor (after Lundeby et al., Acustica 81, 1995). */
function endingOf(energy: Float64Array, from: number): Ending {
  const length = energy.length - from;
  const pieces = 200;
  const size = Math.floor(length / pieces);
  if (size < 1) return { end: energy.length, floor: 0, rangeDb: 0 };
  const means = Array.from({ length: pieces }, (_, piece) => {
    let sum = 0;
    for (let n = 0; n < size; n++) sum += energy[from + piece * size + n]!;
    return sum / size;
  });
  const mean = (first: number, last: number) =>
    means.slice(first, last).reduce((sum, one) => sum + one, 0) / (last - first);
  const last = mean(pieces - 20, pieces);
  const rangeDb = POWER_DB * log(Math.max(...means) / Math.max(last, 1e-30));
  // A sound that still decays at its end shows no noise.
  if (mean(pieces - 40, pieces - 20) > 1.5 * last) return { end: energy.length, floor: 0, rangeDb };
  const floor = last;
  const over = floor * dbToGain(2 * OVER_NOISE_DB);
  let piece = pieces - 1;
  while (piece > 0 && means[piece]! < over) piece--;
  return { end: from + (piece + 1) * size, floor, rangeDb };
}

export interface DecayCurve {
  /** From the first arrival on, a value a frame. */
  readonly db: Float64Array;
  readonly rangeDb: number;
}

/**
 * Energy that is still to come, in dB of the whole (Schroeder, "New method of measuring reverberation time", 1965), less
 * that of the noise it ends in.
 * @param from frame of the first arrival
 */
export function decayCurveOf(channels: Channels, from = arrivalOf(channels)): DecayCurve {
  const energy = energyOf(channels);
  const { end, floor, rangeDb } = endingOf(energy, from);
  const curve = new Float64Array(Math.max(0, end - from));
  let sum = 0;
  for (let n = curve.length - 1; n >= 0; n--) {
    sum += energy[from + n]! - floor;
    curve[n] = Math.max(sum, 0);
  }
  const whole = curve[0] ?? 0;
  for (let n = 0; n < curve.length; n++) curve[n] = POWER_DB * log(Math.max(curve[n]! / whole, 1e-30));
  return { db: curve, rangeDb };
}

/** Seconds for 60 dB by a straight line through a decay curve from one level to another; null when it does not get there. */
function slopeOf({ db: curve, rangeDb }: DecayCurve, fromDb: number, toDb: number, sampleRate: number): number | null {
  if (rangeDb < OVER_NOISE_DB - toDb) return null;
  let first = 0;
  while (first < curve.length && curve[first]! > fromDb) first++;
  let last = first;
  while (last < curve.length && curve[last]! > toDb) last++;
  const count = last - first;
  if (count < 2 || last >= curve.length) return null;
  let sums = 0;
  let products = 0;
  const middle = (count - 1) / 2;
  for (let n = 0; n < count; n++) {
    const x = n - middle;
    sums += x * x;
    products += x * curve[first + n]!;
  }
  return products < 0 ? (-60 * sums) / products / sampleRate : null;
}

/** Seconds for 60 dB as the largest part of a decay that can be seen has it: of 30, 20 or 10 dB; null without any. */
export function decaySeconds(curve: DecayCurve, sampleRate: number): number | null {
  return (
    slopeOf(curve, -5, -35, sampleRate) ?? slopeOf(curve, -5, -25, sampleRate) ?? slopeOf(curve, -3, -13, sampleRate)
  );
}

/** Decay of octaves of an impulse response. */
export function octaveDecays(channels: Channels, centresHz: readonly number[], sampleRate: number): OctaveDecay[] {
  // The arrival of the whole sound: octaves ring ahead of it, by their filter.
  const arrival = arrivalOf(channels);
  return splitOctaves(channels, centresHz, sampleRate).map((bands, n) => {
    const curve = decayCurveOf(bands, arrival);
    const centreHz = centresHz[n]!;
    const seen = (seconds: number | null) =>
      seconds !== null && seconds * centreHz >= SHORTEST_CYCLES ? seconds : null;
    return {
      centreHz,
      t30: seen(slopeOf(curve, -5, -35, sampleRate)),
      edt: seen(slopeOf(curve, 0, -10, sampleRate)),
    };
  });
}

/**
 * Time from which echoes are as dense as in noise: the share of samples outside one standard deviation over 20 ms, 1 for
 * normal noise (Abel and Huang, "A simple, robust measure of reverberation echo density", 2006).
 * @param threshold of that measure
 * @returns seconds after `from`; null if it is never reached
 */
export function denseAfter(sound: ArrayLike<number>, sampleRate: number, from: number, threshold = 0.9): number | null {
  const half = Math.round((ECHO_WINDOW_SECONDS * sampleRate) / 2);
  const step = Math.max(1, Math.round(0.001 * sampleRate));
  for (let centre = from; centre + half < sound.length; centre += step) {
    if (echoDensity(sound, centre, half) >= threshold) return (centre - from) / sampleRate;
  }
  return null;
}

/** Echo density of a stretch of 2 x `half` frames about `centre`, 1 for normal noise. */
export function echoDensity(sound: ArrayLike<number>, centre: number, half: number): number {
  let weights = 0;
  let energy = 0;
  for (let n = Math.max(0, centre - half); n < centre + half; n++) {
    const weight = 0.5 + 0.5 * cos((Math.PI * (n - centre)) / half);
    weights += weight;
    energy += weight * sound[n]! * sound[n]!;
  }
  const deviation = Math.sqrt(energy / weights);
  let outside = 0;
  for (let n = Math.max(0, centre - half); n < centre + half; n++) {
    if (Math.abs(sound[n]!) > deviation) outside += 0.5 + 0.5 * cos((Math.PI * (n - centre)) / half);
  }
  return outside / weights / OUTSIDE;
}

/** Early to late energy in dB, parted so many seconds after the first arrival (ISO 3382-1). */
export function clarityOf(channels: Channels, seconds: number, sampleRate: number): number {
  const energy = energyOf(channels);
  const arrival = arrivalOf(channels);
  const parting = arrival + Math.round(seconds * sampleRate);
  let early = 0;
  let late = 0;
  for (let n = arrival; n < energy.length; n++) {
    if (n < parting) early += energy[n]!;
    else late += energy[n]!;
  }
  return POWER_DB * log(Math.max(early, 1e-30) / Math.max(late, 1e-30));
}

/**
 * Acoustic measures of a room from its impulse response.
 * @param channels one or more of the same length, up to what can be heard of them
 */
export function measureRoom(channels: Channels, sampleRate: number): RoomMeasures {
  const arrival = arrivalOf(channels);
  const whole = decayCurveOf(channels, arrival);
  return {
    silent: peakOf(channels) < SILENCE,
    octaves: octaveDecays(channels, octavesAt(sampleRate), sampleRate),
    t30: slopeOf(whole, -5, -35, sampleRate),
    edt: slopeOf(whole, 0, -10, sampleRate),
    c50: clarityOf(channels, 0.05, sampleRate),
    c80: clarityOf(channels, 0.08, sampleRate),
    arrivalSeconds: arrival / sampleRate,
    denseSeconds: denseAfter(channels[0]!, sampleRate, arrival),
  };
}
