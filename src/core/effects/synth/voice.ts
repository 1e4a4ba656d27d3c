import { FilterPair } from '../../dsp/filterPair';
import { WAVE } from '../../dsp/wavesTwin';
import { WaveTables } from '../../dsp/waveTables';
import { cos, exp, log, pow, sin } from '../../math/elementary';
import { smoothstep } from '../../math/smoothstep';
import type { Arena, Doubles } from '../../wasm/arena';
import { wasm } from '../../wasm/module';
import { MAXIMUM_BLOCK } from '../kernel';
import { EnvelopeCourse } from './envelope';
import { MOST_UNISON, type Tone } from './tone';

/** Frames between two looks at what moves. */
const TICK = 32;
/** Ticks that a voice takes to fall silent, and to return, when its build changes. */
const DIP_TICKS = 16;
/** Part of the rate up to which sidebands go, and what may be left above: -70 dB. */
const BAND = 0.49;
const REST = 3.2e-4;
const MOST_SIDEBANDS = 40;
const SILENT = 1e-5;
const TWO_PI = 6.283185307179586;
const EIGHTH_TURN = 0.7853981633974483;
/** Of a stack: the key, an octave below and an octave above. */
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

/** What cannot change while it sounds. */
type Build = Pick<Tone, 'wave' | 'unison' | 'filter'>;

/** One note that sounds: waves through a filter, each with an envelope. */
export class Voice {
  key = 0;
  /** In the order in which notes have begun. */
  age = 0;
  /** Its key is held. */
  down = false;
  private readonly loops = wasm().loops;
  private readonly tables = new WaveTables();
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
  /** What its filter is on its way to, and whether it has arrived there. */
  private cutoff = 0;
  private damping = 0;
  private tuned = false;
  /** What moves is set at once. */
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

  get silent(): boolean {
    return this.amplitude.over && this.loudness < SILENT;
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
    this.due = 0;
  }

  /** Adds its sound to a part of two blocks. */
  render(tone: Tone, outLeft: Doubles, outRight: Doubles, from: number, to: number): void {
    const { loops, left, right, level } = this;
    for (let start = from; start < to;) {
      if (this.due === 0) this.tick(tone);
      const count = Math.min(to - start, this.due);
      left.fill(0, 0, count);
      right.fill(0, 0, count);
      this.addWaves(tone, count);
      if (this.build.filter !== 'off') this.filter.process(left, right, count);
      loops.scaleMoving(left.byteOffset, left.byteOffset, level[0]!, level[1]!, this.offset, count);
      loops.scaleMoving(right.byteOffset, right.byteOffset, level[0]!, level[1]!, this.offset, count);
      for (let i = 0; i < count; i++) {
        outLeft[start + i] = outLeft[start + i]! + left[i]!;
        outRight[start + i] = outRight[start + i]! + right[i]!;
      }
      this.offset += count;
      this.elapsed += count;
      this.due -= count;
      start += count;
    }
  }

  private addWaves({ fmRatio }: Tone, frames: number): void {
    const { loops, tables, waves, noise, offset, left, right } = this;
    const { wave, unison } = this.build;
    const parts = wave === 'stack' ? PARTS : 1;
    const [toLeft, toRight] = [left.byteOffset, right.byteOffset];
    for (let n = 0; n < unison * parts && wave !== 'noise'; n++) {
      const state = waves[n]!;
      if (wave === 'fm') {
        loops.addModulated(state.byteOffset, tables.sine.byteOffset, fmRatio, offset, frames, toLeft, toRight);
        continue;
      }
      tables.choose(state[WAVE.increment]!);
      const near = tables.table(tables.near).byteOffset;
      const far = tables.table(tables.far).byteOffset;
      loops.addWave(state.byteOffset, near, far, tables.blend, offset, frames, toLeft, toRight);
    }
    if (noise[WAVE.left]! > 0 || noise[WAVE.left + 1]! > 0) {
      loops.addNoise(noise.byteOffset, this.counter, offset, frames, toLeft, toRight);
    }
    this.counter = (this.counter + 2 * frames) >>> 0;
  }

  private tick(tone: Tone): void {
    const seconds = TICK / this.sampleRate;
    this.rebuild(tone);
    const { fresh, amplitude, sweep } = this;
    this.gliding = this.onWay <= seconds ? this.key : this.gliding + ((this.key - this.gliding) * seconds) / this.onWay;
    this.onWay = Math.max(0, this.onWay - seconds);
    const swing = tone.vibratoCents === 0 ? 0 : (tone.vibratoCents / 100) * this.vibrato(tone);
    const hz = 440 * pow(2, (this.gliding + tone.shift - 69 + swing) / 12);
    this.aimWaves(tone, hz / this.sampleRate);
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

  private aimWaves(tone: Tone, increment: number): void {
    const { wave, unison } = this.build;
    const { detuneCents, spread, pulseWidth } = tone;
    const parts = wave === 'stack' ? STACK : ALONE;
    const power = Math.SQRT2 / Math.sqrt(unison);
    const shape = wave === 'fm' ? this.depthAt(tone, increment) : wave === 'pulse' ? pulseWidth : -1;
    for (let copy = 0; copy < unison; copy++) {
      const place = unison === 1 ? 0 : (2 * copy) / (unison - 1) - 1;
      const detuned = place === 0 ? increment : increment * pow(2, (place * detuneCents) / 1200);
      const angle = EIGHTH_TURN * (1 + place * spread);
      for (let part = 0; part < parts.length; part++) {
        const state = this.waves[copy * parts.length + part]!;
        const { ratio, gain } = parts[part]!;
        this.aim(state, WAVE.increment, Math.min(0.5, ratio * detuned));
        this.aim(state, WAVE.shape, shape);
        this.aim(state, WAVE.left, power * gain * cos(angle));
        this.aim(state, WAVE.right, power * gain * sin(angle));
      }
    }
    const level = wave === 'noise' ? 1 : tone.noise;
    this.aim(this.noise, WAVE.left, level * cos(EIGHTH_TURN * spread));
    this.aim(this.noise, WAVE.right, level * sin(EIGHTH_TURN * spread));
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
