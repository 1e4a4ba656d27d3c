import { exp, log } from '../math/elementary';

export const MOST_BANDS = 64;

export const SPACINGS = ['logarithmic', 'bark', 'linear'] as const;
export type Spacing = (typeof SPACINGS)[number];

/** Division of the spectrum into bands. */
export interface BandLayout {
  readonly bands: number;
  /** 2, 4, 6 or 8. */
  readonly order: number;
  readonly spacing: Spacing;
  readonly lowHz: number;
  readonly highHz: number;
  /** Bandwidth of each band; 1 just touches its neighbours. */
  readonly bandwidth: number;
}

/** Critical bands (Traunmueller, "Analytical expressions for the tonotopic sensory scale", J. Acoust. Soc. Am. 88, 1990). */
const toBark = (hz: number) => (26.81 * hz) / (1960 + hz) - 0.53;
const fromBark = (bark: number) => (1960 * (bark + 0.53)) / (26.28 - bark);

const SCALES: Readonly<Record<Spacing, { to: (hz: number) => number; from: (place: number) => number }>> = {
  logarithmic: { to: log, from: exp },
  bark: { to: toBark, from: fromBark },
  linear: { to: (hz) => hz, from: (place) => place },
};

/** Edges of all bands, from the lowest up, where each touches the next: one more than there are bands. */
export function bandEdges({ bands, spacing, lowHz, highHz }: BandLayout): number[] {
  const { to, from } = SCALES[spacing];
  const [low, high] = [to(lowHz), to(highHz)];
  return Array.from({ length: bands + 1 }, (_, n) => from(low + ((high - low) * n) / bands));
}

/** Fractional band index of a frequency, 0 at the centre of the lowest band. */
export function bandPlace({ bands, spacing, lowHz, highHz }: BandLayout, hz: number): number {
  const { to } = SCALES[spacing];
  return ((to(hz) - to(lowHz)) / (to(highHz) - to(lowHz))) * bands - 0.5;
}

/** Middles of all bands, from the lowest up. */
export function bandCentres(layout: BandLayout): number[] {
  const edges = bandEdges(layout);
  return Array.from({ length: layout.bands }, (_, n) => Math.sqrt(edges[n]! * edges[n + 1]!));
}
