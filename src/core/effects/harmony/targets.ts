import { LowFrequencyOscillator } from '../../dsp/lowFrequencyOscillator';
import { exp, pow } from '../../math/elementary';
import { keyOfHz } from '../../math/keys';
import { degreeOf, keyByDegrees, nearestInScale, type Scale } from '../scaleKeys';

/** A pitch leaves its key once another is nearer by this many semitones. */
const STAY = 0.25;
/** Largest drift of a loose voice, and its rates in Hz: each voice has its own. */
const LOOSE_CENTS = 25;
export const LOOSE_SECONDS = 0.025;
const LOOSE_HZ = [0.9, 1.13, 0.78, 1.31, 1.02, 0.67];

export const FOLLOWS = ['interval', 'degrees', 'notes'] as const;

/** Settings of a voice. */
export interface Part {
  on: boolean;
  follow: (typeof FOLLOWS)[number];
  interval: number;
  degrees: number;
  /** Seconds. */
  glide: number;
  /** 0 to 1. */
  loose: number;
  delay: number;
}

/** Current state of a voice. */
export class Target {
  /** Semitones over the source as it snaps. */
  private offset = 0;
  private fresh = true;
  /** Drift, -1 to 1. */
  private readonly pitchDrift: LowFrequencyOscillator;
  private readonly timeDrift: LowFrequencyOscillator;
  /** Pitch over that of the source. */
  ratio = 1;
  /** Seconds that it is late by. */
  late = 0;
  /** It has something to sing. */
  sings = true;

  constructor(
    readonly part: Part,
    sampleRate: number,
    n: number,
  ) {
    this.pitchDrift = new LowFrequencyOscillator(sampleRate, 4001 + 29 * n);
    this.timeDrift = new LowFrequencyOscillator(sampleRate, 5003 + 31 * n);
    this.pitchDrift.configure('smoothRandom', LOOSE_HZ[n % LOOSE_HZ.length]!);
    this.timeDrift.configure('smoothRandom', 0.61 * LOOSE_HZ[n % LOOSE_HZ.length]!);
  }

  locate(frame: number, sounding: boolean): void {
    this.pitchDrift.locate(frame, 0, sounding);
    this.timeDrift.locate(frame, 0, sounding);
  }

  begin(): void {
    this.fresh = true;
  }

  /**
   * Goes on by some frames.
   * @param wanted semitones over the source; null for nothing to sing, where it stays
   * @param corrected semitones that the source itself is moved by
   */
  advance(wanted: number | null, corrected: number, frames: number, seconds: number): void {
    const { part } = this;
    this.pitchDrift.advance(frames);
    this.timeDrift.advance(frames);
    this.sings = wanted !== null;
    if (wanted !== null) {
      const way = this.fresh || part.glide < seconds ? 1 : 1 - exp((-3 * seconds) / part.glide);
      this.offset += way * (wanted - this.offset);
      this.fresh = false;
    }
    const drift = (part.loose * LOOSE_CENTS * this.pitchDrift.read(0)) / 100;
    this.ratio = Math.min(8, Math.max(0.125, pow(2, (this.offset + corrected + drift) / 12)));
    this.late = part.delay + (part.loose * LOOSE_SECONDS * (1 + this.timeDrift.read(0))) / 2;
  }
}

/** The sung note: its key in the scale, and the deviation in semitones. */
export class SourceKey {
  /** NaN before it has sung anything. */
  key = NaN;
  /** Semitones that it is moved by to snap. */
  corrected = 0;
  private pitch = NaN;

  reset(): void {
    this.key = this.pitch = NaN;
    this.corrected = 0;
  }

  /**
   * @param hz its pitch now; 0 where it has none
   * @param snap 0 to 1
   * @param speed seconds that it takes
   */
  hear(hz: number, scale: Scale, snap: number, speed: number, seconds: number): void {
    if (hz > 0) {
      this.pitch = keyOfHz(hz);
      const nearest = nearestInScale(this.pitch, scale);
      const held = Number.isNaN(this.key) || degreeOf(this.key, scale) < 0;
      if (held || Math.abs(this.pitch - this.key) > Math.abs(this.pitch - nearest) + STAY) this.key = nearest;
    }
    const wanted = Number.isNaN(this.key) ? 0 : snap * (this.key - this.pitch);
    const way = speed < seconds ? 1 : 1 - exp((-3 * seconds) / speed);
    this.corrected += way * (wanted - this.corrected);
  }

  /** Semitones from the source to what a voice is to sing; null for nothing. */
  wanted(part: Part, scale: Scale, note: number | null): number | null {
    const { key } = this;
    switch (part.follow) {
      case 'interval':
        return part.interval;
      case 'degrees':
        return Number.isNaN(key) ? 0 : keyByDegrees(key, Math.round(part.degrees), scale) - key;
      case 'notes':
        return note === null || Number.isNaN(key) ? null : note - key;
    }
  }
}
