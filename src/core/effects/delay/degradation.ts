import { LowFrequencyOscillator } from '../../dsp/lowFrequencyOscillator';
import { bucketTopHz } from '../../dsp/narrowing';
import { Noise } from '../../dsp/noise';
import { TWO_PI } from '../../math/circle';
import { cos, exp, log, sin } from '../../math/elementary';
import { settled } from '../../math/settled';
import type { Arena, Doubles } from '../../wasm/arena';
import { MAXIMUM_BLOCK } from '../kernel';
import { TICK } from './delayTap';

export const DEGRADATION_KINDS = ['off', 'tape', 'bucket'] as const;

/** Faults of the medium; amounts from 0 to 1, 0 when switched off. */
export interface DegradationSettings {
  readonly kind: (typeof DEGRADATION_KINDS)[number];
  readonly wow: number;
  readonly flutter: number;
  readonly hiss: number;
  readonly hum: number;
  readonly humHz: number;
  readonly bandwidth: number;
  readonly saturation: number;
}

export const WOW_HZ = 0.6;
/** Deviation of speed at full wow, as a part. */
export const WOW_DEVIATION = 0.012;
const FLUTTER_HZ = 9;
/** Time at full flutter, each way. */
const FLUTTER_SECONDS = 0.00015;
const HISS_LEVEL = 0.02;
const HUM_LEVEL = 0.01;
/** Most drive of the medium, as a factor. */
const WARMEST = 7;
const TAPE_HIGHEST_HZ = 16000;
const CELLS = 4096;
const LOWEST_TOP_HZ = 600;
const SMOOTH_SECONDS = 0.03;
const ENVELOPE_SECONDS = 0.05;
const LN8 = log(8);
const LN10 = log(10);

/**
 * Flaws of a worn tape or a bucket-brigade line, shared by all lines of a delay: slow and fast wavering of the speed,
 * hiss, mains hum, a narrowing band and saturation. Tape keeps one bandwidth and one hiss; a bucket brigade loses
 * highs as its clock slows down for longer delays, and its compander lets the hiss rise with the sound (Raffel and
 * Smith, "Practical modeling of bucket-brigade device circuits", 2010).
 */
export class Degradation {
  /** Frames by which all reads are late or early at the end of the tick. */
  shift = 0;
  /** Drive of the medium at the end of the tick, 1 and up. */
  warmth = 1;
  /** Low cutoff of lines, in Hz. */
  bottomHz = 10;
  /** Hiss and hum of this stretch, to be written into every line. */
  readonly left: Doubles;
  readonly right: Doubles;
  private settings: DegradationSettings;
  private wow = 0;
  private flutter = 0;
  private hiss = 0;
  private hum = 0;
  private band = 0;
  /** By how much highs end lower, as a factor. */
  private loss = 1;
  private readonly wowOscillator: LowFrequencyOscillator;
  private readonly flutterOscillator: LowFrequencyOscillator;
  private readonly noiseLeft = new Noise(911);
  private readonly noiseRight = new Noise(912);
  private readonly smooth: number;
  private readonly envelopeFactor: number;
  private envelope = 0;
  private humCos = 1;
  private humSin = 0;
  private turnCos = 1;
  private turnSin = 0;

  constructor(
    memory: Arena,
    private readonly sampleRate: number,
    settings: DegradationSettings,
  ) {
    this.left = memory.doubles(MAXIMUM_BLOCK);
    this.right = memory.doubles(MAXIMUM_BLOCK);
    this.wowOscillator = new LowFrequencyOscillator(sampleRate, 71);
    this.flutterOscillator = new LowFrequencyOscillator(sampleRate, 72);
    this.wowOscillator.configure('sine', WOW_HZ);
    this.flutterOscillator.configure('smoothRandom', FLUTTER_HZ);
    this.smooth = 1 - exp(-TICK / (SMOOTH_SECONDS * sampleRate));
    this.envelopeFactor = exp(-1 / (ENVELOPE_SECONDS * sampleRate));
    this.settings = settings;
    this.set(settings);
    this.reset();
  }

  set(settings: DegradationSettings): void {
    this.settings = settings;
    const turn = (TWO_PI * settings.humHz) / this.sampleRate;
    this.turnCos = cos(turn);
    this.turnSin = sin(turn);
  }

  reset(): void {
    const { settings } = this;
    this.wow = settings.wow;
    this.flutter = settings.flutter;
    this.hiss = settings.hiss;
    this.hum = settings.hum;
    this.band = settings.bandwidth;
    this.narrowBand();
    this.warmth = this.warmthOf(settings.saturation);
    this.envelope = 0;
    this.shift = this.shiftNow(0);
  }

  locate(frame: number, sounding: boolean): void {
    this.wowOscillator.locate(frame, 0, sounding);
    this.flutterOscillator.locate(frame, 0, sounding);
    const turns = (frame * this.settings.humHz) / this.sampleRate;
    const phase = TWO_PI * (turns - Math.floor(turns));
    this.humCos = cos(phase);
    this.humSin = sin(phase);
  }

  get on(): boolean {
    return this.settings.kind !== 'off';
  }

  /** True while it is on or fading. */
  get active(): boolean {
    return this.on || this.wow > 0 || this.flutter > 0 || this.hiss > 0 || this.hum > 0 || this.band > 0;
  }

  get noisy(): boolean {
    return this.hiss > 0 || this.hum > 0;
  }

  /** Its hiss rises with the sound. */
  get rising(): boolean {
    return this.settings.kind === 'bucket';
  }

  get narrow(): boolean {
    return this.band > 0;
  }

  private warmthOf(saturation: number): number {
    return 1 + saturation * (WARMEST - 1);
  }

  private shiftNow(ahead: number): number {
    const wow = this.wow === 0 ? 0 : this.wowOscillator.read((ahead * WOW_HZ) / this.sampleRate);
    const flutter = this.flutter === 0 ? 0 : this.flutterOscillator.read((ahead * FLUTTER_HZ) / this.sampleRate);
    const seconds = (wow * this.wow * WOW_DEVIATION) / (TWO_PI * WOW_HZ) + flutter * this.flutter * FLUTTER_SECONDS;
    return seconds * this.sampleRate;
  }

  private towards(now: number, target: number): number {
    const away = target - now;
    return away < 1e-5 && away > -1e-5 ? target : now + away * this.smooth;
  }

  /** Prepares the next TICK frames, `elapsed` frames after the last call. */
  tick(elapsed: number): void {
    const { settings } = this;
    this.wow = this.towards(this.wow, settings.wow);
    this.flutter = this.towards(this.flutter, settings.flutter);
    this.hiss = this.towards(this.hiss, settings.hiss);
    this.hum = this.towards(this.hum, settings.hum);
    const band = this.towards(this.band, settings.bandwidth);
    const moved = band !== this.band;
    this.band = band;
    if (moved) this.narrowBand();
    this.warmth = this.towards(this.warmth, this.warmthOf(settings.saturation));
    this.wowOscillator.advance(elapsed);
    this.flutterOscillator.advance(elapsed);
    this.shift = this.shiftNow(TICK);
  }

  /** Takes up how far the band is narrowed now. */
  private narrowBand(): void {
    this.loss = exp(-LN8 * this.band);
    this.bottomHz = 10 * exp(LN10 * this.band);
  }

  /** Cutoff of a line with this delay, in Hz. */
  topHz(delaySeconds: number): number {
    const bucket = this.settings.kind === 'bucket';
    const highest = bucket ? Math.min(TAPE_HIGHEST_HZ, bucketTopHz(CELLS, delaySeconds)) : TAPE_HIGHEST_HZ;
    return Math.max(LOWEST_TOP_HZ, highest * this.loss);
  }

  /** Makes hiss and hum for a stretch; `sound` is what the lines put out in it. */
  makeNoise(soundLeft: Float64Array, soundRight: Float64Array, start: number, frames: number): void {
    const { left, right, turnCos, turnSin, envelopeFactor } = this;
    const { rising } = this;
    const hiss = this.hiss * this.hiss * HISS_LEVEL;
    const hum = this.hum * this.hum * HUM_LEVEL;
    for (let i = 0; i < frames; i++) {
      const l = soundLeft[start + i]!;
      const r = soundRight[start + i]!;
      const level = Math.max(l < 0 ? -l : l, r < 0 ? -r : r);
      const fallen = this.envelope * envelopeFactor;
      this.envelope = level > fallen ? level : settled(fallen);
      const noise = rising ? hiss * (0.1 + 4 * Math.min(0.5, this.envelope)) : hiss;
      const c = this.humCos * turnCos - this.humSin * turnSin;
      const s = this.humSin * turnCos + this.humCos * turnSin;
      this.humCos = c;
      this.humSin = s;
      // The fundamental with some of its second and third harmonic.
      const mains = hum * s * (1 + 0.8 * c + 0.4 * (4 * c * c - 1));
      left[i] = noise * this.noiseLeft.white() + mains;
      right[i] = noise * this.noiseRight.white() + mains;
    }
  }
}
