import { MAXIMUM_BLOCK, type SidechainBlock } from './kernel';
import { FilterPair } from '../dsp/filterPair';
import { takeSides, type Sides } from '../dsp/sides';
import type { Arena, Floats } from '../wasm/arena';
import { number, toggle, type InputSpec, type Parameter } from './spec';

export const KEY_LOWEST_HZ = 20;
export const KEY_HIGHEST_HZ = 20000;

/** The sound that steers an effect, chosen under a heading. */
export const keyOf = (group: string): InputSpec => ({
  id: 'key',
  name: 'Key',
  help: 'The sound whose level steers this effect.',
  group,
});

/** The tone of the key, alike in all keyed effects. */
export const keyParameters = (): Parameter[] => [
  number({
    id: 'keyLowCut',
    name: 'Key low cut',
    group: 'Key',
    unit: 'Hz',
    min: KEY_LOWEST_HZ,
    max: 2000,
    default: KEY_LOWEST_HZ,
    scale: 'log',
    help: 'Leaves out what is below when listening to the key, 12 dB an octave; off at its lowest value.',
  }),
  number({
    id: 'keyHighCut',
    name: 'Key high cut',
    group: 'Key',
    unit: 'Hz',
    min: 200,
    max: KEY_HIGHEST_HZ,
    default: KEY_HIGHEST_HZ,
    scale: 'log',
    help: 'Leaves out what is above when listening to the key, 12 dB an octave; off at its highest value.',
  }),
  toggle({
    id: 'keyListen',
    name: 'Listen to the key',
    group: 'Key',
    default: false,
    help: 'Plays the key as the effect hears it instead of the sound.',
  }),
];

/** The sound that steers an effect, its own or another, between its two cuts. */
export class KeyInput {
  readonly sides: Sides;
  private lowOn = false;
  private highOn = false;
  private readonly low: FilterPair;
  private readonly high: FilterPair;

  constructor(memory: Arena, sampleRate: number) {
    this.sides = [memory.doubles(MAXIMUM_BLOCK), memory.doubles(MAXIMUM_BLOCK)];
    this.low = new FilterPair(memory, sampleRate);
    this.high = new FilterPair(memory, sampleRate);
  }

  configure(lowCutHz: number, highCutHz: number): void {
    this.lowOn = lowCutHz > KEY_LOWEST_HZ;
    this.highOn = highCutHz < KEY_HIGHEST_HZ;
    this.low.configureBoth('highPass', lowCutHz, Math.SQRT1_2);
    this.high.configureBoth('lowPass', highCutHz, Math.SQRT1_2);
  }

  reset(): void {
    this.low.reset();
    this.high.reset();
  }

  take(left: Floats, right: Floats, frames: number, key: SidechainBlock | null | undefined): void {
    const { sides } = this;
    takeSides(sides, key ? key.left : left, key ? key.right : right, frames);
    if (this.lowOn) this.low.process(sides[0], sides[1], frames);
    if (this.highOn) this.high.process(sides[0], sides[1], frames);
  }
}
