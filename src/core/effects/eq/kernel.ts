import { Ramp } from '../../dsp/ramp';
import { putSides, takeSides, type Sides } from '../../dsp/sides';
import { between } from '../../math/between';
import { dbToGain, exp, log } from '../../math/elementary';
import type { Arena, Doubles, Floats, Integers } from '../../wasm/arena';
import { wasm } from '../../wasm/module';
import { MAXIMUM_BLOCK, type Kernel, type KernelContext, type KernelFactory } from '../kernel';
import { RAMP_SECONDS } from '../parameterKernel';
import { itemParameterIndices, parameterIndices } from '../parameterIndices';
import { Band, MOST_SECTIONS, sameShape, type BandShape } from '../toneBand';
import { EQ_CHANNELS, EQ_SLOPES, EQ_TYPES, eqSpec } from './spec';

const LIST = eqSpec.lists[0]!;
const BANDS = LIST.count;
const PARAMETERS = LIST.parameters.length;
const P = parameterIndices(eqSpec, ['output']);
const B = itemParameterIndices(LIST, ['on', 'type', 'frequency', 'gain', 'q', 'slope', 'channel']);

/** Doubles that the chain works in for each filter. */
const LINK = 14;
/** Frames between two tunings while a band moves. */
const TICK = 16;

/** A band as it sounds, on both channels or one of them. */
class Voice {
  readonly band: Band;
  shape: BandShape | null = null;
  /** Stands for the channel that is left alone. */
  private readonly other: Doubles;

  constructor(memory: Arena, sampleRate: number) {
    this.band = new Band(memory, sampleRate);
    this.other = memory.doubles(MAXIMUM_BLOCK);
  }

  /** Begins anew, to be tuned then; without a shape it leaves the sound as it is. */
  arrange(shape: BandShape | null): void {
    this.shape = shape;
    if (shape) this.band.arrange(shape);
  }

  process(left: Doubles, right: Doubles, frames: number, start: number): void {
    const { band, shape, other } = this;
    if (!shape) return;
    switch (EQ_CHANNELS[shape.channel]!) {
      case 'both':
        return band.process(left, right, frames, start);
      case 'left':
        return band.process(left, other, frames, start);
      case 'right':
        return band.process(right, other, frames, start);
      case 'mid':
      case 'side': {
        for (let i = start; i < start + frames; i++) {
          const l = left[i]!;
          left[i] = 0.5 * (l + right[i]!);
          right[i] = 0.5 * (l - right[i]!);
        }
        band.process(EQ_CHANNELS[shape.channel] === 'mid' ? left : right, other, frames, start);
        for (let i = start; i < start + frames; i++) {
          const mid = left[i]!;
          left[i] = mid + right[i]!;
          right[i] = mid - right[i]!;
        }
      }
    }
  }
}

/**
 * One band with its smooth settings; a new shape crossfades from the old. What changes is taken up at ticks, which are
 * counted from the first frame on, so that no cut of blocks moves them.
 */
class BandSlot {
  private readonly logFrequency: Ramp;
  private readonly gain: Ramp;
  private readonly logQ: Ramp;
  private wanted: BandShape | null;
  private voice: Voice;
  private old: Voice;
  private readonly fade = new Ramp(1);
  private sinceTick = 0;
  /** Something moved since the filters were tuned last. */
  private moved = false;
  private readonly oldLeft: Doubles;
  private readonly oldRight: Doubles;

  constructor(
    memory: Arena,
    sampleRate: number,
    private readonly values: number[],
    private readonly rampFrames: number,
  ) {
    this.voice = new Voice(memory, sampleRate);
    this.old = new Voice(memory, sampleRate);
    this.oldLeft = memory.doubles(MAXIMUM_BLOCK);
    this.oldRight = memory.doubles(MAXIMUM_BLOCK);
    this.logFrequency = new Ramp(log(values[B.frequency]!));
    this.gain = new Ramp(values[B.gain]!);
    this.logQ = new Ramp(log(values[B.q]!));
    this.wanted = this.shape();
    this.voice.arrange(this.wanted);
    this.tune(this.voice, 0);
  }

  setParameter(index: number, value: number, frames: number): void {
    this.values[index] = value;
    if (index === B.frequency) this.logFrequency.moveTo(log(value), frames);
    else if (index === B.gain) this.gain.moveTo(value, frames);
    else if (index === B.q) this.logQ.moveTo(log(value), frames);
    else this.wanted = this.shape();
  }

  reset(): void {
    this.logFrequency.moveTo(log(this.values[B.frequency]!), 0);
    this.gain.moveTo(this.values[B.gain]!, 0);
    this.logQ.moveTo(log(this.values[B.q]!), 0);
    this.voice.arrange(this.wanted);
    this.old.arrange(null);
    this.fade.moveTo(1, 0);
    this.sinceTick = 0;
    this.moved = false;
    this.tune(this.voice, 0);
  }

  private shape(): BandShape | null {
    const v = this.values;
    if (!v[B.on]) return null;
    return { type: EQ_TYPES[v[B.type]!]!, slope: EQ_SLOPES[v[B.slope]!]!, channel: v[B.channel]! };
  }

  private tune({ band, shape }: Voice, frames: number): void {
    if (!shape) return;
    const setting = {
      frequencyHz: exp(this.logFrequency.value),
      gainDb: this.gain.value,
      q: exp(this.logQ.value),
    };
    band.tune(setting, frames);
  }

  private get moving(): boolean {
    return !this.logFrequency.settled || !this.gain.settled || !this.logQ.settled;
  }

  private get steady(): boolean {
    return (
      this.fade.settled &&
      this.old.shape === null &&
      !this.moving &&
      !this.moved &&
      sameShape(this.wanted, this.voice.shape)
    );
  }

  /** True if it changes nothing. */
  get idle(): boolean {
    return this.steady && this.voice.shape === null;
  }

  /** True if it is a chain of still filters on both channels. */
  get plain(): boolean {
    const { shape, band } = this.voice;
    return this.steady && shape !== null && EQ_CHANNELS[shape.channel] === 'both' && band.still;
  }

  /** Puts the places of its filters into a list, for somebody else to work on; it is to be told of frames that pass. */
  list(places: Int32Array, at: number): number {
    return this.voice.band.list(places, at);
  }

  pass(frames: number): void {
    this.sinceTick = (this.sinceTick + frames) % TICK;
  }

  process(left: Doubles, right: Doubles, frames: number): void {
    if (this.steady) {
      this.voice.process(left, right, frames, 0);
      this.pass(frames);
      return;
    }
    for (let start = 0; start < frames;) {
      if (this.sinceTick === 0) this.tick();
      const count = Math.min(frames - start, TICK - this.sinceTick);
      if (this.moving) {
        this.moved = true;
        this.skip(count);
      }
      this.stretch(left, right, count, start);
      this.sinceTick = (this.sinceTick + count) % TICK;
      start += count;
    }
  }

  /** Takes up a new shape and sends the filters to where the settings are. */
  private tick(): void {
    if (this.moved) {
      this.tune(this.voice, TICK);
      this.tune(this.old, TICK);
      this.moved = false;
    }
    if (!this.fade.settled) return;
    this.old.arrange(null);
    if (sameShape(this.wanted, this.voice.shape)) return;
    [this.old, this.voice] = [this.voice, this.old];
    this.voice.arrange(this.wanted);
    this.tune(this.voice, 0);
    this.fade.moveTo(0, 0);
    this.fade.moveTo(1, this.rampFrames);
  }

  private skip(frames: number): void {
    this.logFrequency.pass(frames);
    this.gain.pass(frames);
    this.logQ.pass(frames);
  }

  private stretch(left: Doubles, right: Doubles, frames: number, start: number): void {
    if (this.fade.settled) {
      this.voice.process(left, right, frames, start);
      return;
    }
    const { oldLeft, oldRight } = this;
    for (let i = start; i < start + frames; i++) {
      oldLeft[i] = left[i]!;
      oldRight[i] = right[i]!;
    }
    this.voice.process(left, right, frames, start);
    this.old.process(oldLeft, oldRight, frames, start);
    for (let i = start; i < start + frames; i++) {
      const weight = this.fade.next();
      left[i] = between(oldLeft[i]!, left[i]!, weight);
      right[i] = between(oldRight[i]!, right[i]!, weight);
    }
  }
}

/** Bands one after the other, then a level. Bands that are off cost nothing and leave every bit as it is. */
class EqKernel implements Kernel {
  readonly latencyFrames = 0;
  readonly canSleep = true;
  private readonly rampFrames: number;
  private readonly slots: readonly BandSlot[];
  private readonly output: Ramp;
  private outputDb: number;
  private readonly wasmKernels = wasm().kernels;
  private readonly sides: Sides;
  /** Places of the filters that are worked on in one go. */
  private readonly places: Integers;
  /** For the chain to work in. */
  private readonly room: Doubles;
  private readonly values: number[];
  /** Filters that are all of it while nothing moves, below 0 otherwise, and the frames that the slots have not been told of. */
  private chain = -1;
  private passed = 0;

  constructor({ sampleRate, values, memory }: KernelContext) {
    this.sides = [memory.doubles(MAXIMUM_BLOCK), memory.doubles(MAXIMUM_BLOCK)];
    this.places = memory.integers(BANDS * MOST_SECTIONS);
    this.room = memory.doubles(LINK * BANDS * MOST_SECTIONS);
    this.values = [...values];
    this.rampFrames = Math.round(RAMP_SECONDS * sampleRate);
    this.slots = Array.from(
      { length: BANDS },
      (_, band) =>
        new BandSlot(memory, sampleRate, values.slice(band * PARAMETERS, (band + 1) * PARAMETERS), this.rampFrames),
    );
    this.outputDb = values[P.output]!;
    this.output = new Ramp(dbToGain(this.outputDb));
  }

  /** The slowest band rings for a few of its periods times its Q. */
  tailSeconds(): number {
    let longest = 0;
    for (let band = 0; band < BANDS; band++) {
      const at = band * PARAMETERS;
      if (!this.values[at + B.on]) continue;
      longest = Math.max(longest, (4 * Math.max(1, this.values[at + B.q]!)) / this.values[at + B.frequency]!);
    }
    return longest;
  }

  setParameter(index: number, value: number, frames = this.rampFrames): void {
    this.values[index] = value;
    if (index === P.output) {
      this.outputDb = value;
      this.output.moveTo(dbToGain(value), frames);
    } else {
      this.unchain();
      this.slots[Math.floor(index / PARAMETERS)]!.setParameter(index % PARAMETERS, value, frames);
    }
  }

  locate(): void {}

  reset(): void {
    this.unchain();
    for (const slot of this.slots) slot.reset();
    this.output.moveTo(dbToGain(this.outputDb), 0);
  }

  /** Works on the filters that are listed; none is then. */
  private work(listed: number, frames: number): number {
    const { wasmKernels, places, room } = this;
    const [left, right] = this.sides;
    if (listed > 0) {
      wasmKernels.filterChain(places.byteOffset, listed, room.byteOffset, left.byteOffset, right.byteOffset, frames);
    }
    return 0;
  }

  /** Works slot by slot, and finds whether all of them are one chain from now on. */
  private bySlots(left: Doubles, right: Doubles, frames: number): void {
    let listed = 0;
    let chained = true;
    for (const slot of this.slots) {
      if (slot.idle) {
        slot.pass(frames);
      } else if (slot.plain) {
        listed = slot.list(this.places, listed);
        slot.pass(frames);
      } else {
        chained = false;
        listed = this.work(listed, frames);
        slot.process(left, right, frames);
      }
    }
    this.work(listed, frames);
    if (chained) this.chain = listed;
  }

  /** Something is going to move: every slot is looked at again. */
  private unchain(): void {
    for (const slot of this.slots) slot.pass(this.passed);
    this.passed = 0;
    this.chain = -1;
  }

  process(left: Floats, right: Floats, frames: number): void {
    const { sides, output } = this;
    const [l, r] = sides;
    takeSides(sides, left, right, frames);
    if (this.chain >= 0) {
      this.passed += frames;
      this.work(this.chain, frames);
    } else {
      this.bySlots(l, r, frames);
    }
    if (output.settled) {
      putSides(left, right, sides, frames, output.value);
      return;
    }
    for (let i = 0; i < frames; i++) {
      const gain = output.next();
      left[i] = l[i]! * gain;
      right[i] = r[i]! * gain;
    }
  }
}

export const createEq: KernelFactory = (context) => new EqKernel(context);
