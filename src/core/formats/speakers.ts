import { MAXIMUM_CHANNELS } from './sound';

const HALF_POWER = Math.SQRT1_2;
const AMONG = Math.cos(Math.PI / 8);
const BESIDE = Math.sin(Math.PI / 8);

/**
 * Gains into left and right of each place of a speaker, in the order of the bits of a mask. Source: ITU-R BS.775-4
 * (downward mixing of 3/2 to 2/0); the places that it does not know lie by equal power between those that it does. The
 * low frequency channel is left out.
 */
const FOLDS: readonly (readonly [left: number, right: number])[] = [
  [1, 0], // front left
  [0, 1], // front right
  [HALF_POWER, HALF_POWER], // front centre
  [0, 0], // low frequencies
  [HALF_POWER, 0], // back left
  [0, HALF_POWER], // back right
  [AMONG, BESIDE], // front, left of the centre
  [BESIDE, AMONG], // front, right of the centre
  [0.5, 0.5], // back centre
  [HALF_POWER, 0], // side left
  [0, HALF_POWER], // side right
  [0.5, 0.5], // top centre
  [HALF_POWER, 0], // top front left
  [0.5, 0.5], // top front centre
  [0, HALF_POWER], // top front right
  [HALF_POWER, 0], // top back left
  [0.5, 0.5], // top back centre
  [0, HALF_POWER], // top back right
];

/** Highest mask: all places that are known. */
const ALL_PLACES = 2 ** FOLDS.length - 1;

/** Masks of the places by the number of channels: the order of FLAC (RFC 9639, section 9.1.3), and that of Vorbis and Opus as they are read here. */
const OWN_ORDERS: Readonly<Record<number, number>> = {
  3: 0x7,
  4: 0x33,
  5: 0x37,
  6: 0x3f,
  7: 0x70f,
  8: 0x63f,
};

/** Places of the speakers in a format's own order; null for a number of channels that has none. */
export const ownOrder = (channels: number): number | null => OWN_ORDERS[channels] ?? null;

const NAMES: Readonly<Record<number, string>> = {
  0x7: '3.0',
  0x33: 'quad',
  0x37: '5.0',
  0x607: '5.0',
  0x3f: '5.1',
  0x60f: '5.1',
  0x13f: '6.1',
  0x70f: '6.1',
  0x63f: '7.1',
};

/** What a layout is called: "5.1". */
export const layoutName = (mask: number): string => NAMES[mask] ?? `${placesOf(mask).length} speakers`;

/** Bits of a mask that are set, in order. */
const placesOf = (mask: number): number[] => FOLDS.flatMap((_, bit) => (mask & (1 << bit) ? [bit] : []));

/** True if a mask tells the place of every channel. */
export const fits = (mask: number, channels: number): boolean =>
  mask > 0 && mask <= ALL_PLACES && placesOf(mask).length >= channels;

/**
 * What is heard of a sound with more than two channels, as text: `fold-MASK`, all of them folded to two by their places;
 * `take-1`, one of them; `take-3-4`, two of them.
 */
export type Heard = string;

export const foldOf = (mask: number): Heard => `fold-${mask}`;
export const takeOf = (left: number, right: number): Heard =>
  left === right ? `take-${left}` : `take-${left}-${right}`;

type Reading = { readonly mask: number } | { readonly left: number; readonly right: number };

/** @returns null for anything that is no choice among so many channels */
export function readHeard(heard: Heard, channels: number): Reading | null {
  const [, fold, left, right = left] = /^(?:fold-(\d{1,6})|take-(\d{1,2})(?:-(\d{1,2}))?)$/.exec(heard) ?? [];
  if (fold !== undefined) return fits(Number(fold), channels) ? { mask: Number(fold) } : null;
  const there = (n: number) => n >= 1 && n <= Math.min(channels, MAXIMUM_CHANNELS);
  return there(Number(left)) && there(Number(right)) ? { left: Number(left), right: Number(right) } : null;
}

/** Number of sides that are heard: 1 or 2. */
export function sidesHeard(heard: Heard | undefined, channels: number): 1 | 2 {
  const reading = heard === undefined ? null : readHeard(heard, channels);
  if (!reading) return channels === 1 ? 1 : 2;
  return 'mask' in reading || reading.left !== reading.right ? 2 : 1;
}

/**
 * One or two channels from more.
 * @param channels some frames, channel by channel
 * @returns all channels as they are where nothing is chosen
 */
export function heardOf(channels: readonly Float32Array[], heard: Heard | undefined): readonly Float32Array[] {
  const reading = heard === undefined ? null : readHeard(heard, channels.length);
  if (!reading) return channels;
  if (!('mask' in reading)) {
    const { left, right } = reading;
    return (left === right ? [left] : [left, right]).map((n) => channels[n - 1]!);
  }
  const places = placesOf(reading.mask);
  return [0, 1].map((side) => {
    const sum = new Float32Array(channels[0]!.length);
    channels.forEach((channel, n) => {
      const gain = FOLDS[places[n]!]![side]!;
      if (gain !== 0) for (let i = 0; i < sum.length; i++) sum[i]! += gain * channel[i]!;
    });
    return sum;
  });
}

/** What is heard of a sound if nobody chooses: null where that must be asked. */
export function heardByItself(channels: number, mask: number | null): Heard | undefined | null {
  if (channels <= 2) return undefined;
  return mask !== null && fits(mask, channels) ? foldOf(mask) : null;
}

/** What a choice is called: "5.1, folded to two", "channels 3 and 4". */
export function heardName(heard: Heard | undefined, channels: number): string {
  const reading = heard === undefined ? null : readHeard(heard, channels);
  if (!reading) return channels > 2 ? 'channels 1 and 2' : channels === 2 ? 'stereo' : 'mono';
  if ('mask' in reading) return `${layoutName(reading.mask)}, folded to two`;
  const { left, right } = reading;
  return left === right ? `channel ${left}` : `channels ${left} and ${right}`;
}
