import type { Ring } from '../../dsp/ring';
import { tiedFormants } from '../../dsp/formantTie';
import { cos } from '../../math/elementary';
import type { Arena, Doubles } from '../../wasm/arena';
import { MAXIMUM_BLOCK } from '../kernel';
import type { Mark, PitchMarks } from './pitchMarks';

/** Grains of a voice that sound at a time, at most. */
const MOST_GRAINS = 20;
/** A read keeps this far from what is not there yet. */
const LEAST = 2;
const WINDOW_SIZE = 2048;
/** A falling half of a raised cosine. */
const WINDOW = Float64Array.from(
  { length: WINDOW_SIZE + 2 },
  (_, n) => 0.5 + 0.5 * cos((Math.PI * Math.min(n, WINDOW_SIZE)) / WINDOW_SIZE),
);

interface Grain {
  sounding: boolean;
  /** Frames of the input at which it begins and ends. */
  from: number;
  to: number;
  /** Delay at its beginning, in frames, and its change per frame. */
  delay: number;
  step: number;
  /** Its middle, in frames of the input, its reach to both sides, and its level. */
  middle: number;
  left: number;
  right: number;
  gain: number;
}

/** Targets of a voice at a time. */
export interface Singing {
  /** Pitch over that of the source. */
  ratio: number;
  /** Formants over those of the source. */
  formants: number;
  /** Frames that it is late by. */
  late: number;
  /** True if it also plays unvoiced sounds. */
  consonants: boolean;
}

/**
 * A voice made of the periods of another: pieces of two periods each, laid nearer together or farther apart (time-domain
 * pitch-synchronous overlap-add, Moulines and Charpentier 1990). Pieces keep their length, and so the formants, or are
 * read faster or slower to move those. Where there is no pitch the pieces lie where they have come from.
 */
export class GrainVoice {
  private readonly grains: readonly Grain[];
  private readonly block: Doubles;
  /** Positions of the next piece and of the middle of the last one. */
  private next = 0;
  private placed = 0;
  /** The mark that was last taken. */
  private mark = 0;
  private running = false;
  /** Nothing with a pitch has been laid last. */
  private plain = true;

  constructor(
    memory: Arena,
    private readonly ring: Ring,
    private readonly marks: PitchMarks,
  ) {
    this.block = memory.doubles(MAXIMUM_BLOCK + 4);
    this.grains = Array.from({ length: MOST_GRAINS }, () => ({
      sounding: false,
      from: 0,
      to: 0,
      delay: 0,
      step: 0,
      middle: 0,
      left: 1,
      right: 1,
      gain: 0,
    }));
  }

  /** Nothing sounds any more; it begins anew where the sound is then. */
  stop(): void {
    this.running = false;
    for (const grain of this.grains) grain.sounding = false;
  }

  /**
   * Lays all pieces that begin before a frame.
   * @param now,until frames of the input
   * @param behind frames by which what is heard is behind the input
   */
  lay(now: number, until: number, behind: number, singing: Singing): void {
    const { marks } = this;
    const { late } = singing;
    if (!this.running) {
      this.running = this.plain = true;
      this.next = this.placed = now - behind - late;
      this.mark = Math.max(0, marks.count - 1);
      while (this.mark > 0 && this.mark > marks.count - 400 && marks.mark(this.mark).at > this.next) this.mark--;
    }
    for (;;) {
      this.advance();
      const mark = marks.mark(this.mark);
      // Unvoiced sound waits for its mark.
      if (!mark.voiced && mark.at <= this.placed && this.mark + 1 === marks.count) return;
      const reach = mark.voiced
        ? mark.period * reachOf(mark, singing)
        : Math.min(2 * mark.period, Math.max(1, this.next - this.placed));
      if (this.next - reach + behind + late >= until) return;
      if (mark.voiced) this.layVoiced(mark, now, behind + late, singing);
      else this.layPlain(mark, now, behind + late, singing.consonants);
    }
  }

  /** Goes on to the mark nearest to where the next piece is laid. */
  private advance(): void {
    const { marks, next } = this;
    const away = (n: number) => Math.abs(marks.mark(n).at - next);
    while (this.mark + 1 < marks.count && away(this.mark + 1) <= away(this.mark)) this.mark++;
  }

  private layVoiced(mark: Mark, now: number, behind: number, singing: Singing): void {
    const { marks } = this;
    const { at, period: told } = mark;
    // The period as it is from mark to mark: so voice and source keep step at one pitch.
    const after = this.mark + 1 < marks.count ? marks.mark(this.mark + 1) : null;
    const period = after?.voiced ? after.at - at : told;
    const half = period * reachOf(mark, singing);
    // A voice begins where the source does; at the source's own pitch it stays there.
    if (this.plain && at > this.placed) this.next = at;
    this.plain = false;
    const gain = Math.sqrt(period / (singing.ratio * half));
    this.place(at, this.next, half, half, tiedFormants(singing.formants, singing.ratio, mark.tie), gain, now, behind);
    this.next += period / singing.ratio;
  }

  /** A piece of what has no pitch, where it is in the sound. */
  private layPlain({ at, period }: Mark, now: number, behind: number, heard: boolean): void {
    this.plain = true;
    const before = at - this.placed;
    if (before > 0.25 * period) {
      if (heard) this.place(at, at, Math.min(before, 2 * period), period, 1, 1, now, behind);
      else this.placed = at;
    }
    this.next = Math.max(this.next + period / 4, Math.max(at, this.placed) + period);
  }

  private place(
    at: number,
    to: number,
    left: number,
    right: number,
    speed: number,
    gain: number,
    now: number,
    behind: number,
  ): void {
    this.placed = to;
    const grain = this.free();
    const middle = to + behind;
    // A piece that should have begun already rises from now on.
    const rise = Math.min(left, Math.max(1, middle - now));
    const from = Math.ceil(middle - rise);
    grain.sounding = true;
    grain.from = from;
    grain.to = Math.ceil(middle + right);
    grain.middle = middle;
    grain.left = rise;
    grain.right = right;
    grain.gain = gain;
    // For input frame f the piece reads at + (f - middle) * speed.
    grain.delay = from - at - (from - middle) * speed;
    grain.step = 1 - speed;
  }

  private free(): Grain {
    let oldest = this.grains[0]!;
    for (const grain of this.grains) {
      if (!grain.sounding) return grain;
      if (grain.to < oldest.to) oldest = grain;
    }
    return oldest;
  }

  /**
   * Adds what sounds to a block of the ring's last frames.
   * @param now frame of the input at which the block begins
   */
  render(out: Doubles, now: number, frames: number): void {
    const { ring, block } = this;
    for (const grain of this.grains) {
      if (!grain.sounding) continue;
      const first = Math.max(0, grain.from - now);
      const last = Math.min(frames, grain.to - now);
      if (grain.to <= now + frames) grain.sounding = false;
      if (first >= last) continue;
      ring.read(block, grain.delay, grain.step, now + first - grain.from, LEAST, last - first, frames - first);
      const { middle, left, right, gain } = grain;
      for (let i = first; i < last; i++) {
        const away = now + i - middle;
        const part = away < 0 ? -away / left : away / right;
        if (part >= 1) continue;
        const row = part * WINDOW_SIZE;
        const whole = Math.floor(row);
        const weight = WINDOW[whole]! + (row - whole) * (WINDOW[whole + 1]! - WINDOW[whole]!);
        out[i] = out[i]! + gain * weight * block[i - first]!;
      }
    }
  }
}

/** Reach of a piece to each side in periods of the source: it reads one at most, and tied pieces overlap by half. */
const reachOf = ({ tie }: Mark, { ratio, formants }: Singing) =>
  tiedFormants(Math.min(1, 1 / formants), 1 / ratio, tie);
