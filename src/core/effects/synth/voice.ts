import { FilterPair } from '../../dsp/filterPair';
import { WAVE } from '../../dsp/waveState';
import { WaveTables } from '../../dsp/waveTables';
import { EIGHTH_TURN, TWO_PI } from '../../math/circle';
import { cos, exp, log, pow, sin } from '../../math/elementary';
import { hzOfKey } from '../../math/keys';
import { smoothstep } from '../../math/smoothstep';
import type { Arena, Doubles } from '../../wasm/arena';
import { wasm } from '../../wasm/module';
import { MAXIMUM_BLOCK } from '../kernel';
import { EnvelopeCourse } from './envelope';
import { MOST_UNISON, type Tone } from './tone';

/** Frames between two looks at what moves. */
const TICK = 64;
/** Ticks that a voice takes to fall silent, and to return, when its build changes. */
const DIP_TICKS = 8;
/** Part of the rate up to which sidebands go, and what may be left above: -70 dB. */
const BAND = 0.49;
const REST = 3.2e-4;
const MOST_SIDEBANDS = 40;
const SILENT = 1e-5;
/** Notes of a stack: the key, an octave below and an octave above. */
const STACK = [
  { ratio: 1, gain: 0.75 },
  { ratio: 0.5, gain: 0.5 },
  { ratio: 2, gain: 0.35 },
] as const;
const ALONE = [{ ratio: 1, gain: 1 }] as const;
const PARTS = STACK.length;
/** Every wave begins somewhere else in its cycle; the golden ratio keeps any two apart. */
const APART = 0.618033988749895;

/**
 * Depths, in cycles, up to which the sidebands beyond the n-th stay under `REST`: a Bessel function of order n is less
 * than (x/2)^n / n! (Chowning, "The synthesis of complex audio spectra by means of frequency modulation", 1973).
 */
const DEEPEST = Array.from({ length: MOST_SIDEBANDS + 1 }, (_, sidebands) => {
  const order = sidebands + 1;
  let sum = log(REST);
  for (let n = 2; n <= order; n++) sum += log(n);
  return (2 * exp(sum / order)) / TWO_PI;
});

/** Fixed while it sounds. */
type Build = Pick<Tone, 'wave' | 'unison' | 'filter'>;

/** One note that sounds: waves through a filter, each with an envelope. */
export class Voice {
  key = 0;
  /** In the order in which notes have begun. */
  age = 0;
  /** Its key is held. */
  down = false;
  private readonly wasmKernels = wasm().kernels;
  /** One for each wave. */
  private readonly tables = Array.from({ length: MOST_UNISON * PARTS }, () => new WaveTables());
  private readonly waves: readonly Doubles[];
  private readonly noise: Doubles;
  /** Its gain, kept as a wave's. */
  private readonly level: Doubles;
  private readonly filter: FilterPair;
  private readonly left: Doubles;
  private readonly right: Doubles;
  private readonly amplitude = new EnvelopeCourse();
  private readonly sweep = new EnvelopeCourse();
  private build: Build = { wave: 'saw', unison: 1, filter: 'off' };
  /** 1 but while its build changes. */
  private presence = 1;
  private ended = true;
  /** Frames since the last tick, and to the next. */
  private offset = 0;
  private due = 0;
  /** Frames since its note has begun. */
  private elapsed = 0;
  private counter = 0;
  private velocity = 1;
  /** The key as it sounds while it glides, and seconds until it is there. */
  private gliding = 0;
  private onWay = 0;
  /** Its current pitch in cycles a frame, and the key for which that was computed. */
  private pitch = 0;
  private keyOfPitch = NaN;
  /** Left and right gain of each copy, its detuning, and the values they were computed for. */
  private readonly copies = Array.from({ length: MOST_UNISON }, () => ({ ratio: 1, left: 1, right: 1 }));
  private copiesFor = { unison: 0, detuneCents: NaN, spread: NaN };
  private noiseSides = { common: 1, own: 0 };
  /** Target of its filter, and whether that is reached. */
  private cutoff = 0;
  private damping = 0;
  private tuned = false;
  /** Sets moving values at once. */
  private fresh = true;

  constructor(
    memory: Arena,
    private readonly sampleRate: number,
    private readonly seed: number,
  ) {
    this.waves = Array.from({ length: MOST_UNISON * PARTS }, () => memory.doubles(WAVE.length));
    this.noise = memory.doubles(WAVE.length);
    this.level = memory.doubles(2);
    this.left = memory.doubles(MAXIMUM_BLOCK);
    this.right = memory.doubles(MAXIMUM_BLOCK);
    this.filter = new FilterPair(memory, sampleRate, true);
  }

  /** Looked at with each tick, so that it ends on the same frame however blocks are cut. */
  get silent(): boolean {
    return this.ended;
  }

  /** Its gain now. */
  get loudness(): number {
    return this.level[0]! + this.offset * this.level[1]!;
  }

  /** The key that sounds now, on its way from one to another as well. */
  get sounding(): number {
    return this.gliding;
  }

  /** @param from the key that it glides from */
  begin(tone: Tone, key: number, velocity: number, from: number, age: number): void {
    if (this.silent) {
      this.silence();
      this.filter.reset();
      this.waves.forEach((wave, n) => {
        wave[WAVE.phase] = (n * APART + this.seed * 0.137) % 1;
        wave[WAVE.modulatorPhase] = 0;
      });
      this.counter = Math.imul(this.seed + 1, 0x9e3779b1) >>> 0;
      this.elapsed = 0;
      this.fresh = true;
      this.ended = false;
    }
    this.amplitude.begin();
    this.sweep.begin();
    this.velocity = velocity;
    this.age = age;
    this.gliding = from;
    this.sound(tone, key);
  }

  /** Goes on to another key without beginning anew. */
  sound({ glide }: Tone, key: number): void {
    this.key = key;
    this.down = true;
    this.onWay = glide;
    this.due = 0;
  }

  release(): void {
    this.down = false;
    this.amplitude.release();
    this.sweep.release();
    this.due = 0;
  }

  silence(): void {
    this.down = false;
    this.amplitude.silence();
    this.sweep.silence();
    this.level.fill(0);
    this.presence = 1;
    this.ended = true;
    this.due = 0;
  }

  /** Adds its sound to a part of two blocks. */
  render(tone: Tone, outLeft: Doubles, outRight: Doubles, from: number, to: number): void {
    const { wasmKernels, left, right, level } = this;
    for (let start = from; start < to;) {
      if (this.due === 0) this.tick(tone);
      if (this.ended) return;
      const count = Math.min(to - start, this.due);
      this.addWaves(tone, count);
      const [toLeft, toRight] = [outLeft.byteOffset + 8 * start, outRight.byteOffset + 8 * start];
      const [gain, step] = [level[0]!, level[1]!];
      if (this.build.filter !== 'off') this.filter.spend(left, right, toLeft, toRight, gain, step, this.offset, count);
      else wasmKernels.spendSides(toLeft, toRight, left.byteOffset, right.byteOffset, gain, step, this.offset, count);
      this.offset += count;
      this.elapsed += count;
      this.due -= count;
      start += count;
    }
  }

  private addWaves({ fmRatio }: Tone, frames: number): void {
    const { wasmKernels, tables, waves, noise, offset, left, right } = this;
    const { wave, unison } = this.build;
    const parts = wave === 'stack' ? PARTS : 1;
    const [toLeft, toRight] = [left.byteOffset, right.byteOffset];
    for (let n = 0; n < unison * parts && wave !== 'noise'; n++) {
      const state = waves[n]!;
      if (wave === 'fm') {
        wasmKernels.addModulated(
          state.byteOffset,
          tables[n]!.sine.byteOffset,
          fmRatio,
          offset,
          frames,
          toLeft,
          toRight,
        );
        continue;
      }
      const table = tables[n]!;
      table.choose(state[WAVE.increment]!);
      const { near, far, blend } = table;
      wasmKernels.addWave(state.byteOffset, near.byteOffset, far.byteOffset, blend, offset, frames, toLeft, toRight);
    }
    if (noise[WAVE.left]! > 0 || noise[WAVE.left + 1]! > 0) {
      wasmKernels.addNoise(noise.byteOffset, this.counter, offset, frames, toLeft, toRight);
    }
    this.counter = (this.counter + 2 * frames) >>> 0;
  }

  private tick(tone: Tone): void {
    if (!this.fresh && this.amplitude.over && this.loudness < SILENT) {
      this.silence();
      return;
    }
    const seconds = TICK / this.sampleRate;
    this.rebuild(tone);
    const { fresh, amplitude, sweep } = this;
    this.gliding = this.onWay <= seconds ? this.key : this.gliding + ((this.key - this.gliding) * seconds) / this.onWay;
    this.onWay = Math.max(0, this.onWay - seconds);
    const swing = tone.vibratoCents === 0 ? 0 : (tone.vibratoCents / 100) * this.vibrato(tone);
    const key = this.gliding + tone.shift + swing;
    if (key !== this.keyOfPitch) {
      this.keyOfPitch = key;
      this.pitch = hzOfKey(key) / this.sampleRate;
    }
    this.aimWaves(tone, this.pitch);
    amplitude.advance(tone.envelope, seconds);
    const gain = amplitude.value * this.velocity * smoothstep(this.presence);
    const now = this.loudness;
    this.level[0] = now;
    this.level[1] = (gain - now) / TICK;
    sweep.advance(tone.filterEnvelope, seconds);
    if (fresh) this.tuned = false;
    if (this.build.filter !== 'off') this.shape(tone, fresh);
    this.fresh = false;
    this.offset = 0;
    this.due = TICK;
  }

  /** Takes up another build while it is silent for a moment. */
  private rebuild({ wave, unison, filter }: Tone): void {
    const { build } = this;
    const same = build.wave === wave && build.unison === unison && build.filter === filter;
    if (same || (!this.fresh && this.presence > 0)) {
      this.presence = Math.min(1, Math.max(0, this.presence + (same ? 1 : -1) / DIP_TICKS));
      return;
    }
    this.build = { wave, unison, filter };
    this.filter.reset();
    if (this.fresh) this.presence = 1;
    this.fresh = true;
  }

  private vibrato({ vibratoHz }: Tone): number {
    const turn = (this.elapsed / this.sampleRate) * vibratoHz;
    return sin(TWO_PI * (turn - Math.floor(turn)));
  }

  /** Sends a figure of a state to where it is to be at the next tick. */
  private aim(state: Doubles, figure: number, target: number): void {
    const now = this.fresh ? target : state[figure]! + this.offset * state[figure + 1]!;
    state[figure] = now;
    state[figure + 1] = (target - now) / TICK;
  }

  private arrangeCopies({ detuneCents, spread }: Tone): void {
    const { copiesFor: known, copies } = this;
    const { unison } = this.build;
    if (known.unison === unison && known.detuneCents === detuneCents && known.spread === spread) return;
    this.copiesFor = { unison, detuneCents, spread };
    const power = Math.SQRT2 / Math.sqrt(unison);
    for (let n = 0; n < unison; n++) {
      const place = unison === 1 ? 0 : (2 * n) / (unison - 1) - 1;
      const angle = EIGHTH_TURN * (1 + place * spread);
      const copy = copies[n]!;
      copy.ratio = place === 0 ? 1 : pow(2, (place * detuneCents) / 1200);
      copy.left = power * cos(angle);
      copy.right = power * sin(angle);
    }
    this.noiseSides = { common: cos(EIGHTH_TURN * spread), own: sin(EIGHTH_TURN * spread) };
  }

  private aimWaves(tone: Tone, increment: number): void {
    const { wave, unison } = this.build;
    this.arrangeCopies(tone);
    const parts = wave === 'stack' ? STACK : ALONE;
    const shape = wave === 'fm' ? this.depthAt(tone, increment) : wave === 'pulse' ? tone.pulseWidth : -1;
    for (let n = 0; n < unison; n++) {
      const copy = this.copies[n]!;
      for (let part = 0; part < parts.length; part++) {
        const state = this.waves[n * parts.length + part]!;
        const { ratio, gain } = parts[part]!;
        this.aim(state, WAVE.increment, Math.min(0.5, ratio * copy.ratio * increment));
        this.aim(state, WAVE.shape, shape);
        this.aim(state, WAVE.left, gain * copy.left);
        this.aim(state, WAVE.right, gain * copy.right);
      }
    }
    const level = wave === 'noise' ? 1 : tone.noise;
    this.aim(this.noise, WAVE.left, level * this.noiseSides.common);
    this.aim(this.noise, WAVE.right, level * this.noiseSides.own);
  }

  /** The depth that is set, held down where its sidebands would lie above the band. */
  private depthAt({ fmDepth, fmRatio }: Tone, increment: number): number {
    const sidebands = Math.floor((BAND - increment) / (fmRatio * increment));
    return sidebands < 0 ? 0 : Math.min(fmDepth, DEEPEST[Math.min(MOST_SIDEBANDS, sidebands)]!);
  }

  private shape(tone: Tone, atOnce: boolean): void {
    const octaves = (tone.tracking * (this.gliding + tone.shift - 60)) / 12 + tone.filterDepth * this.sweep.value;
    const hz = Math.max(20, tone.cutoffHz * pow(2, octaves));
    const k = 1 / tone.resonance;
    const stays = hz === this.cutoff && k === this.damping;
    if (stays && this.tuned) return;
    this.tuned = stays;
    this.cutoff = hz;
    this.damping = k;
    const { filter } = this.build;
    const input = filter === 'highPass' ? 1 : 0;
    const band = filter === 'highPass' ? -k : filter === 'bandPass' ? k : 0;
    const low = filter === 'highPass' ? -1 : filter === 'lowPass' ? 1 : 0;
    for (const side of [0, 1] as const) this.filter.shape(side, hz, k, input, band, low, atOnce || stays ? 0 : TICK);
  }
}
