import { TWO_PI } from '../math/circle';
import { cos, sin } from '../math/elementary';
import type { SeededRandom } from '../math/random';
import type { Arena, Doubles, Floats, Integers } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { DECAY_BANDS, decayFiltersAt, SECTION, type DecayFilters } from './decayFilters';
import { PitchTaps } from './pitchTaps';
import { prepareReads, SINC_NEAREST } from './ring';
import { Swings } from './swings';
import { SINC_TAPS } from './interpolationTable';

/** Frames between two looks at what moves. */
export const NETWORK_TICK = 128;
/** The shortest line, in frames: all that lies between two looks can be read before it is written. */
export const SHORTEST_LINE = NETWORK_TICK + SINC_NEAREST + 1;

/** Lines are served in as many groups by turns, one a tick: the work of a move spreads over as many. */
const GROUPS = 4;
const MOVE_FRAMES = GROUPS * NETWORK_TICK;
const FADE_TICKS = 20;
/** A band without effect is passed over after as many ticks: what rang in it is gone. */
const IDLE_TICKS = 20;
/** Doubles of a pair of lines in the table of filters, and of a band in it. */
const PAIR_HEAD = 4;
const BAND_LENGTH = 24;
const PAIR_LENGTH = PAIR_HEAD + DECAY_BANDS * BAND_LENGTH;
/** Doubles from the block of a pair to that of the next. */
const BLOCK_LENGTH = 2 * NETWORK_TICK + 8;
const SCRATCH = 2 * (NETWORK_TICK + 4);
/** Numbers that a line's filters are designed to: a gain and sections. */
const AIM_LENGTH = 1 + SECTION * DECAY_BANDS;

/**
 * A feedback delay network (Jot and Chaigne, "Digital delay networks for designing artificial reverberators", 1991) with
 * a Walsh-Hadamard matrix, filters for a decay by octaves in each line, and movement that loses no energy: pairs of lines
 * are turned into one another by slowly swinging angles (Schlecht and Habets, "Time-varying feedback matrices in feedback
 * delay networks", 2015), beside which every second line can be made longer and shorter. The left side goes into the
 * even lines, the right into the odd ones; all are heard on both sides, by rows of signs at right angles.
 */
export class FeedbackNetwork {
  /** Lengths of the lines that are to be, in frames of SHORTEST_LINE to the longest. */
  readonly lengths: Float64Array;
  /** Loss by band that is to be, in dB a frame, 0 and down; `retune` tells that it has changed. */
  readonly losses = new Float64Array(DECAY_BANDS);
  /** True if a change of lengths glides, false if it crossfades. */
  glides = false;
  /** Modulation depths: rotation of pairs in radians, length of lines in frames; both at the same rate in Hz. */
  turnDepth = 0;
  swayDepth = 0;
  swingHz = 1;

  private readonly wasmKernels = wasm().kernels;
  private readonly pairs: number;
  private readonly size: number;
  private readonly stride: number;
  private readonly rings: Floats;
  private readonly blocks: Doubles;
  private readonly scratch: Doubles;
  /** Per line: delay and step, and those that are crossfaded to. */
  private readonly delays: Doubles;
  private readonly table: Doubles;
  private readonly order: Integers;
  private readonly turns: Doubles;
  private readonly entries: Doubles;
  private readonly exits: Doubles;
  private readonly filters: DecayFilters;
  private readonly pitch: PitchTaps;
  /** Per line: target gain and filter sections. */
  private readonly aims: Float64Array;
  private readonly section = new Float64Array(SECTION * DECAY_BANDS);
  /** Ticks for which a band has been without effect. */
  private readonly idle = new Int32Array(DECAY_BANDS);
  /** Oscillators at the end of this tick: one a line, then one a pair. */
  private readonly swings: Swings;
  /** Lengths without sway, now and at the end of the crossfade. */
  private readonly bases: Float64Array;
  private used = 0;
  private stale = 0;
  private moving = 0;
  /** Ticks for which it is still to be seen which bands fall idle. */
  private watched = 0;
  private writeIndex = 0;
  private written = 0;
  private offset = 0;
  private ticks = 0;
  private fading = 0;
  private fade = 0;
  private nextGroup = 0;
  private turned = false;
  private readonly gain: number;

  /**
   * It is to be told lengths and losses and then `reset` before it sounds.
   * @param lines 8, 16 or 32
   * @param longest longest line in frames
   * @param random draws the swings
   */
  constructor(
    memory: Arena,
    sampleRate: number,
    readonly lines: number,
    longest: number,
    random: SeededRandom,
  ) {
    prepareReads();
    this.pairs = lines / 2;
    this.gain = 1 / Math.sqrt(lines);
    this.pitch = new PitchTaps(memory, sampleRate, lines, NETWORK_TICK, SHORTEST_LINE);
    this.size = Math.ceil(longest) + this.pitch.reach + NETWORK_TICK + 2 * SINC_TAPS;
    this.stride = this.size + SINC_TAPS;
    this.rings = memory.floats(lines * this.stride);
    this.blocks = memory.doubles(this.pairs * BLOCK_LENGTH);
    this.scratch = memory.doubles(SCRATCH);
    this.delays = memory.doubles(4 * lines);
    this.table = memory.doubles(this.pairs * PAIR_LENGTH);
    this.order = memory.integers(DECAY_BANDS);
    this.turns = memory.doubles(8 * this.pairs);
    this.entries = memory.doubles(lines);
    this.exits = memory.doubles(2 * lines);
    this.filters = decayFiltersAt(sampleRate);
    this.aims = new Float64Array(lines * AIM_LENGTH);
    this.lengths = new Float64Array(lines).fill(SHORTEST_LINE);
    this.bases = new Float64Array(2 * lines);
    this.swings = new Swings(sampleRate, lines + this.pairs, random);
    for (let line = 0; line < lines; line++) {
      const pair = line >> 1;
      // Half of the lines for each side, at the power that comes in.
      this.entries[line] = (random.uniform() < 0.5 ? -1 : 1) / Math.sqrt(this.pairs);
      // Two rows of signs, every second of which differs: at right angles.
      const sign = random.uniform() < 0.5 ? -1 : 1;
      this.exits[4 * pair + (line & 1)] = sign;
      this.exits[4 * pair + 2 + (line & 1)] = (pair & 1) === (line & 1) ? sign : -sign;
    }
  }

  /** The losses have changed. */
  retune(): void {
    this.stale = GROUPS;
  }

  /** @param amount share of the sound whose pitch is changed in each pass of half of the lines, 0 to 1 */
  shift(amount: number, ratio: number, frames: number): void {
    this.pitch.aim(amount, ratio, frames);
  }

  /**
   * Tells the swings where in a session they are, so that a passage sounds the same wherever playback began.
   * @param sounding they get there within a quarter of a second rather than at once
   */
  locate(frame: number, sounding: boolean): void {
    this.swings.locate(frame + NETWORK_TICK - this.offset, this.swingHz, sounding);
    if (sounding) return;
    for (let line = 0; line < this.lines; line++) this.swayLine(line, 0);
    for (let pair = 0; pair < this.pairs; pair++) this.turnPair(pair, 0);
  }

  /** Forgets all sound and stands at once where lengths and losses say. */
  reset(): void {
    const { lines } = this;
    if (this.written > 0) this.rings.fill(0);
    this.writeIndex = 0;
    this.written = 0;
    this.offset = NETWORK_TICK;
    this.swings.settle();
    this.ticks = 0;
    this.fading = 0;
    this.fade = 0;
    this.pitch.reset();
    for (let line = 0; line < lines; line++) {
      this.bases[2 * line] = this.lengths[line]!;
      this.design(line);
      this.arrive(line);
      this.swayLine(line, 0);
    }
    for (let pair = 0; pair < this.pairs; pair++) this.turnPair(pair, 0);
    for (let pair = 0; pair < this.pairs; pair++) {
      for (let band = 0; band < DECAY_BANDS; band++) {
        const states = pair * PAIR_LENGTH + PAIR_HEAD + band * BAND_LENGTH + 4 * SECTION;
        this.table.fill(0, states, states + 4);
      }
    }
    this.moving = 0;
    this.stale = 0;
    this.idle.fill(IDLE_TICKS);
    this.watched = 0;
    this.chooseBands();
  }

  /**
   * Sends what comes in through the network.
   * @param left,right what comes in; nothing of it is heard at once
   * @param outLeft,outRight what is heard of the lines, written over
   */
  process(left: Doubles, right: Doubles, outLeft: Doubles, outRight: Doubles, frames: number): void {
    for (let from = 0; from < frames;) {
      if (this.offset === NETWORK_TICK) this.tick();
      const count = Math.min(frames - from, NETWORK_TICK - this.offset);
      this.stretch(left, right, outLeft, outRight, from, count);
      this.offset += count;
      from += count;
    }
  }

  private stretch(
    left: Doubles,
    right: Doubles,
    outLeft: Doubles,
    outRight: Doubles,
    from: number,
    count: number,
  ): void {
    const { wasmKernels, rings, stride, size, writeIndex, pairs, offset, fade } = this;
    const blocks = this.blocks.byteOffset;
    const scratch = this.scratch.byteOffset;
    const at = 8 * from;
    wasmKernels.readNetwork(
      rings.byteOffset,
      4 * stride,
      size,
      writeIndex,
      pairs,
      this.delays.byteOffset,
      offset,
      this.fading,
      fade,
      1 / (FADE_TICKS * NETWORK_TICK),
      count,
      blocks,
      scratch,
    );
    if (this.pitch.works) {
      this.pitch.read(rings.byteOffset, 4 * stride, size, writeIndex, offset, count, blocks, 8 * BLOCK_LENGTH, scratch);
    }
    wasmKernels.filterNetwork(
      blocks,
      pairs,
      this.table.byteOffset,
      DECAY_BANDS,
      this.order.byteOffset,
      this.used,
      this.moving > 0,
      count,
    );
    wasmKernels.gatherNetwork(
      blocks,
      pairs,
      this.exits.byteOffset,
      outLeft.byteOffset + at,
      outRight.byteOffset + at,
      count,
    );
    wasmKernels.mixNetwork(blocks, pairs, this.turned ? this.turns.byteOffset : 0, offset, count);
    wasmKernels.writeNetwork(
      rings.byteOffset,
      4 * stride,
      size,
      writeIndex,
      pairs,
      blocks,
      this.gain,
      left.byteOffset + at,
      right.byteOffset + at,
      this.entries.byteOffset,
      count,
    );
    this.writeIndex = (writeIndex + count) % size;
    this.written += count;
  }

  private tick(): void {
    const { lines, pairs } = this;
    this.offset = 0;
    const group = this.ticks++ % GROUPS;
    this.crossfade();
    this.swings.advance(NETWORK_TICK, this.swingHz);
    for (let line = 0; line < lines; line++) this.swayLine(line, NETWORK_TICK);
    this.turned = this.turnDepth > 0 || this.turned;
    let still = this.turnDepth === 0;
    if (this.turned) for (let pair = 0; pair < pairs; pair++) still = this.turnPair(pair, NETWORK_TICK) && still;
    this.turned = !still;
    this.pitch.tick(this.bases);
    if (this.stale > 0 || this.moving > 0) {
      for (let line = group; line < lines; line += GROUPS) {
        this.arrive(line);
        if (this.stale === 0) continue;
        this.design(line);
        this.send(line);
      }
      this.moving = this.stale > 0 ? GROUPS : this.moving - 1;
      this.stale = Math.max(0, this.stale - 1);
      this.watched = IDLE_TICKS;
    }
    if (this.watched > 0) {
      this.watched--;
      this.chooseBands();
    }
    this.wasmKernels.settleNetwork(this.table.byteOffset, pairs, DECAY_BANDS);
  }

  /** Lets a group of lines at a time crossfade to their lengths, so that little energy is lost while they do. */
  private crossfade(): void {
    const { bases, lengths, lines } = this;
    if (this.fading !== 0) {
      this.fade += 1 / FADE_TICKS;
      if (this.fade < 1 - 1e-9) return;
      for (let line = 0; line < lines; line++) {
        if (!((this.fading >> line) & 1)) continue;
        bases[2 * line] = bases[2 * line + 1]!;
        this.delays[4 * line] = this.delays[4 * line + 2]!;
        this.delays[4 * line + 1] = this.delays[4 * line + 3]!;
      }
      this.fading = 0;
      this.fade = 0;
    }
    if (this.glides) return;
    for (let turn = 0; turn < GROUPS; turn++) {
      const group = (this.nextGroup + turn) % GROUPS;
      let fading = 0;
      for (let line = group; line < lines; line += GROUPS) {
        const to = Math.round(lengths[line]!);
        if (to === bases[2 * line]) continue;
        bases[2 * line + 1] = to;
        this.delays[4 * line + 2] = to + (this.delays[4 * line]! - bases[2 * line]!);
        fading |= 1 << line;
      }
      if (fading === 0) continue;
      this.fading = fading;
      this.nextGroup = (group + 1) % GROUPS;
      return;
    }
  }

  /** Sends a line to the length it has after `frames` frames; 0 for at once. */
  private swayLine(line: number, frames: number): void {
    const { bases, delays, lengths } = this;
    if (this.glides && this.fading === 0 && frames > 0) bases[2 * line] = lengths[line]!;
    const sways = (line & 1) === 1 && this.swayDepth > 0;
    const sway = sways ? this.swayDepth * sin(TWO_PI * this.swings.at(line)) : 0;
    for (const set of [0, 1]) {
      if (set === 1 && !((this.fading >> line) & 1)) break;
      const at = 4 * line + 2 * set;
      const base = bases[2 * line + set]!;
      // A line that cannot be made shorter stays where it is on that side.
      const to = Math.max(SHORTEST_LINE, base + sway);
      if (frames === 0) {
        delays[at] = to;
        delays[at + 1] = 0;
        continue;
      }
      delays[at] = delays[at]! + delays[at + 1]! * NETWORK_TICK;
      const step = (to - delays[at]!) / frames;
      if (Math.abs(step) < 1e-9) {
        delays[at] = to;
        delays[at + 1] = 0;
      } else delays[at + 1] = step;
    }
  }

  /** Sends a pair to the angle it has after `frames` frames; 0 for at once. Tells whether it stands straight. */
  private turnPair(pair: number, frames: number): boolean {
    const { turns } = this;
    const angle = this.turnDepth * sin(TWO_PI * this.swings.at(this.lines + pair));
    const at = 8 * pair;
    const c = cos(angle);
    const s = sin(angle);
    if (frames > 0) {
      // From the end of the last tick along a chord, whose mean square is held at 1.
      const c0 = turns[at]! + turns[at + 2]! * frames;
      const s0 = turns[at + 5]! + turns[at + 7]! * frames;
      const length = Math.sqrt(c0 * c0 + s0 * s0);
      const dot = (c0 * c + s0 * s) / length;
      const scale = 1 / Math.sqrt((2 + Math.min(1, dot)) / 3);
      this.putTurn(at, (c0 / length) * scale, (s0 / length) * scale, c * scale, s * scale, frames);
    } else this.putTurn(at, c, s, c, s, 1);
    return angle === 0 && turns[at + 7] === 0;
  }

  private putTurn(at: number, c0: number, s0: number, c: number, s: number, frames: number): void {
    const { turns } = this;
    turns[at] = turns[at + 1] = c0;
    turns[at + 2] = turns[at + 3] = (c - c0) / frames;
    turns[at + 4] = -s0;
    turns[at + 5] = s0;
    turns[at + 6] = -(s - s0) / frames;
    turns[at + 7] = (s - s0) / frames;
  }

  /** Works out what filters a line is to have. */
  private design(line: number): void {
    const { aims, section } = this;
    const length = this.bases[2 * line + ((this.fading >> line) & 1)]!;
    aims[line * AIM_LENGTH] = this.filters.design(this.losses, length, section);
    aims.set(section, line * AIM_LENGTH + 1);
  }

  /** Sends a line's filters on their way; they arrive when its group is served next. */
  private send(line: number): void {
    const { aims, table } = this;
    const aim = line * AIM_LENGTH;
    const head = (line >> 1) * PAIR_LENGTH + (line & 1);
    table[head + 2] = (aims[aim]! - table[head]!) / MOVE_FRAMES;
    for (let n = 0; n < AIM_LENGTH - 1; n++) {
      const at = placeOf(head, n);
      table[at + 2 * SECTION] = (aims[aim + 1 + n]! - table[at]!) / MOVE_FRAMES;
    }
  }

  /** Puts a line's filters where they are to be. */
  private arrive(line: number): void {
    const { aims, table } = this;
    const aim = line * AIM_LENGTH;
    const head = (line >> 1) * PAIR_LENGTH + (line & 1);
    table[head] = aims[aim]!;
    table[head + 2] = 0;
    for (let n = 0; n < AIM_LENGTH - 1; n++) {
      const at = placeOf(head, n);
      table[at] = aims[aim + 1 + n]!;
      table[at + 2 * SECTION] = 0;
    }
  }

  /** Which bands do something, or did until just now. */
  private chooseBands(): void {
    const { order, idle } = this;
    this.used = 0;
    for (let band = 0; band < DECAY_BANDS; band++) {
      idle[band] = this.works(band) ? 0 : Math.min(IDLE_TICKS, idle[band]! + 1);
      if (idle[band]! < IDLE_TICKS) order[this.used++] = band;
    }
  }

  /** True if a band's filter changes any line, now or on its ramp. */
  private works(band: number): boolean {
    const { table, pairs } = this;
    for (let pair = 0; pair < pairs; pair++) {
      const at = pair * PAIR_LENGTH + PAIR_HEAD + band * BAND_LENGTH;
      for (let lane = 0; lane < 2; lane++) {
        if (table[at + lane] !== 1 || table[at + 2 * SECTION + lane] !== 0) return true;
        if (table[at + 2 + lane] !== table[at + 6 + lane] || table[at + 4 + lane] !== table[at + 8 + lane]) return true;
      }
    }
    return false;
  }
}

/** Offset of section `n` of a line in its pair's table. */
function placeOf(head: number, n: number): number {
  return head + PAIR_HEAD + Math.floor(n / SECTION) * BAND_LENGTH + 2 * (n % SECTION);
}
