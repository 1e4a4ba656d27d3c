import type { Arena, Doubles } from '../wasm/arena';
import { FilterPair } from './filterPair';

/**
 * The analogue prototypes of a K-weighting (ITU-R BS.1770-4): a high shelf, with its gain above and at its frequency, and a
 * low cut (De Man, "Evaluation of implementations of the EBU R128 loudness measurement", 2018).
 */
export const K_SHELF = {
  hz: 1681.974450955533,
  q: 0.7071752369554196,
  high: 1.5848647011308556,
  band: 1.2587209302325617,
};
export const K_LOW_CUT = { hz: 38.13547087602444, q: 0.5003270373238773 };

/** K-weights both sides of a sound. */
export class KWeighting {
  private readonly shelf: FilterPair;
  private readonly lowCut: FilterPair;

  constructor(memory: Arena, sampleRate: number) {
    this.shelf = new FilterPair(memory, sampleRate);
    this.lowCut = new FilterPair(memory, sampleRate);
    const { hz, q, high, band } = K_SHELF;
    for (const side of [0, 1] as const) this.shelf.shape(side, hz, 1 / q, high, (band - high) / q, 1 - high);
    this.lowCut.configureBoth('highPass', K_LOW_CUT.hz, K_LOW_CUT.q);
  }

  reset(): void {
    this.shelf.reset();
    this.lowCut.reset();
  }

  /** In place. */
  process(left: Doubles, right: Doubles, frames: number): void {
    this.shelf.process(left, right, frames);
    this.lowCut.process(left, right, frames);
  }
}

const square = (x: number) => x * x;

/** Power of a K-weighting at a frequency, by its analogue prototypes; 1 for 0 dB. */
export function kPowerAt(hz: number): number {
  const poles = (corner: number, q: number) => square(corner * corner - hz * hz) + square((corner * hz) / q);
  const { hz: corner, q, high, band } = K_SHELF;
  const shelf = square(corner * corner - high * hz * hz) + square((band * corner * hz) / q);
  return (shelf / poles(corner, q)) * (square(hz * hz) / poles(K_LOW_CUT.hz, K_LOW_CUT.q));
}
