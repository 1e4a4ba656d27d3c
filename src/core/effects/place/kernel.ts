import { SOUND_SPEED } from '../../dsp/airAbsorption';
import { AIR_SECTION, AIR_SECTIONS, airFiltersAt, type AirFilters } from '../../dsp/airFilter';
import { Ramp } from '../../dsp/ramp';
import { putSides, takeMiddle, type Sides } from '../../dsp/sides';
import { dbToGain, pow } from '../../math/elementary';
import { TINY } from '../../math/settled';
import { smoothstep } from '../../math/smoothstep';
import type { Doubles, Floats } from '../../wasm/arena';
import { MAXIMUM_BLOCK, type Kernel, type KernelContext, type KernelFactory } from '../kernel';
import { ParameterKernel } from '../parameterKernel';
import { parameterIndices } from '../parameterIndices';
import type { ResolvedSetting } from '../settings';
import { MIRRORS, MOTIONS, spotAt, type Course, type Spot } from './motion';
import { Source } from './source';
import { NEAREST, placeSpec } from './spec';

const P = parameterIndices(placeSpec, [
  'azimuth',
  'distance',
  'height',
  'size',
  'spread',
  'motion',
  'motionRate',
  'motionPhase',
  'motionDirection',
  'motionSize',
  'motionEase',
  'mirror',
  'distanceLevel',
  'levelFloor',
  'air',
  'doppler',
  'render',
  'law',
  'ears',
]);

/** Frames between two looks at where it is. */
const TICK = 32;
/** Seconds of a ramp by hand, and of a jump to another position. */
const GLIDE_SECONDS = 0.15;
const CATCH_UP_SECONDS = 0.25;
/** Farther than this a moving thing is heard no later, in metres. */
const LATEST_METRES = 120;
const MOST_DOPPLER = 2;
const LAWS = [1, 1.5, 2] as const;
/** All-passes that make of one sound another that is like it and not the same, in seconds. */
const SPREAD_SECONDS = [0.0113, 0.0079, 0.0053] as const;
const SPREAD_GAIN = 0.6;

/** An all-pass (Schroeder, "Natural sounding artificial reverberation", 1962). */
class AllPass {
  private readonly held: Float64Array;
  private at = 0;

  constructor(frames: number) {
    this.held = new Float64Array(frames);
  }

  clear(): void {
    this.held.fill(0);
  }

  /** Works on a block in place. */
  process(block: Doubles, frames: number): void {
    const { held } = this;
    let { at } = this;
    for (let i = 0; i < frames; i++) {
      const late = held[at]!;
      const kept = block[i]! + SPREAD_GAIN * late;
      held[at] = kept;
      at = at + 1 === held.length ? 0 : at + 1;
      block[i] = late - SPREAD_GAIN * kept;
    }
    this.at = at;
  }
}

/**
 * A thing that stands or moves around the listener: level by distance (1/r), loss in air (ISO 9613-1, see
 * `AirFilters`), the time on the way (Doppler), and from where it comes (`Source`). A thing with a size sounds from its
 * two ends; what both have in common is told apart by an all-pass that one gets with its sign turned (Schroeder, "An
 * artificial stereophonic effect obtained from a single audio signal", 1958), so that their sum is what came in.
 */
class PlaceKernel extends ParameterKernel implements Kernel {
  readonly latencyFrames: number;
  readonly canSleep = true;
  private readonly glideFrames: number;
  private readonly airFilters: AirFilters;
  private readonly ends: readonly [Source, Source];
  private readonly endBlocks: Sides;
  private readonly out: Sides;
  /** Decorrelation between the ends of a wide thing. */
  private readonly unlike: Doubles;
  private readonly aroundBlock: Float64Array = new Float64Array(MAXIMUM_BLOCK);
  private readonly spreads: readonly AllPass[];
  private readonly course: Course = {
    azimuth: 0,
    distance: 1,
    height: 0,
    motion: 'none',
    size: 1,
    phase: 0,
    backwards: false,
    ease: 0,
    mirror: 'none',
    path: { x: [0], y: [0] },
  };
  /** Without bounds, so that it goes the shorter way round. */
  private readonly azimuth = new Ramp(0);
  private aimedAzimuth = 0;
  private readonly distance = new Ramp(1);
  private readonly height = new Ramp(0);
  private readonly size = new Ramp(0);
  private readonly apart = new Ramp(1);
  private readonly reach = new Ramp(1);
  private readonly phase = new Ramp(0);
  private readonly ease = new Ramp(0);
  private readonly distanceLevel = new Ramp(1);
  private readonly floor = new Ramp(0);
  private readonly air = new Ramp(0);
  private readonly doppler = new Ramp(0);
  private readonly around = new Ramp(0);
  private readonly law = new Ramp(1);
  private readonly ears = new Ramp(0);
  private readonly moving = [
    this.azimuth,
    this.distance,
    this.height,
    this.size,
    this.apart,
    this.reach,
    this.phase,
    this.ease,
    this.distanceLevel,
    this.floor,
    this.air,
    this.doppler,
    this.law,
    this.ears,
  ];
  /** Rounds since the start of the session. */
  private rounds = 0;
  private readonly spot: Spot = { x: 0, y: 1, z: 0 };
  private readonly end: Spot = { x: 0, y: 1, z: 0 };
  /** Distance from the target when that was changed, and the part of it that is left. */
  private readonly behind: Spot = { x: 0, y: 0, z: 0 };
  private behindLeft = 0;
  /** Level, and what the end of a thing takes of its spread; with their steps. */
  private level = 1;
  private levelStep = 0;
  /** Sections of the air: now, their steps, and where they are on their way to. */
  private readonly sections = new Float64Array(AIR_SECTIONS * AIR_SECTION);
  private readonly sectionSteps = new Float64Array(AIR_SECTIONS * AIR_SECTION);
  private readonly sectionGoals = new Float64Array(AIR_SECTIONS * AIR_SECTION);
  /** Sections that do anything at the next tick, and until then. */
  private airCount = 0;
  private airActive = 0;
  private spread = 0;
  private spreadStep = 0;
  /** Two numbers for each section of each end. */
  private readonly airStates = [new Float64Array(2 * AIR_SECTIONS), new Float64Array(2 * AIR_SECTIONS)] as const;
  private wide = false;
  /** Renderings that sound until the next tick: speakers, a head. */
  private open = true;
  private head = false;
  private offset = TICK;
  private field: readonly Float64Array[] | null = null;
  /** Filled frames of its blocks. */
  private fieldAt = 0;
  private readonly listening = { law: 1, ears: 0, lateFrames: 0, field: false };

  constructor(context: KernelContext) {
    super(context);
    const { memory, sampleRate, settings } = context;
    this.glideFrames = Math.round(GLIDE_SECONDS * sampleRate);
    this.airFilters = airFiltersAt(sampleRate);
    const longest = (MOST_DOPPLER * LATEST_METRES) / SOUND_SPEED;
    this.ends = [new Source(memory, sampleRate, longest), new Source(memory, sampleRate, longest)];
    this.latencyFrames = this.ends[0].latencyFrames;
    const block = () => memory.doubles(MAXIMUM_BLOCK);
    this.endBlocks = [block(), block()];
    this.unlike = block();
    this.out = [block(), block()];
    this.spreads = SPREAD_SECONDS.map((seconds) => new AllPass(Math.round(seconds * sampleRate)));
    this.draw(settings.path!);
    this.reset();
  }

  tailSeconds(): number {
    const { v } = this;
    const far = v[P.motion] === 0 ? v[P.distance]! + Math.abs(v[P.height]!) : LATEST_METRES;
    const onTheWay = (Math.min(LATEST_METRES, far) / SOUND_SPEED) * (v[P.doppler]! / 100);
    return 0.02 + onTheWay + (v[P.size]! > 0 ? 0.25 : 0);
  }

  override setParameter(index: number, value: number, frames?: number): void {
    const turnsOver = index === P.motion || index === P.mirror || index === P.motionDirection;
    if (turnsOver && value !== this.v[index]) this.leap(() => (this.v[index] = value));
    this.v[index] = value;
    // While nothing sounds it is at once where it is to be: the next sound begins there.
    if (this.isSounding) this.aim(frames ?? this.rampFrames, frames ?? this.glideFrames);
    else this.aim(0);
  }

  setSetting(id: string, setting: ResolvedSetting): void {
    if (id === 'path') this.leap(() => this.draw(setting));
  }

  private draw(setting: ResolvedSetting): void {
    if (setting.kind === 'path') this.course.path = setting;
  }

  locate(frame: number): void {
    const rounds = (frame * this.v[P.motionRate]!) / this.sampleRate;
    if (this.isSounding) this.leap(() => (this.rounds = rounds));
    else {
      this.rounds = rounds;
      this.offset = TICK;
    }
  }

  reset(): void {
    for (const end of this.ends) end.reset();
    for (const one of this.spreads) one.clear();
    for (const states of this.airStates) states.fill(0);
    this.aim(0);
    this.behindLeft = 0;
    this.isSounding = false;
    this.offset = TICK;
  }

  readMeters(out: Float64Array): void {
    this.find(0);
    out[0] = this.spot.x;
    out[1] = this.spot.y;
    out[2] = this.spot.z;
  }

  /**
   * Asks for its part of a sound field, besides what it puts out.
   * @param into 4 or 16 channels of blocks, in the order of ACN with the norm SN3D, to which what comes now is added
   */
  encodeField(into: readonly Float64Array[]): void {
    this.field = into;
    this.fieldAt = 0;
    this.listening.field = true;
  }

  protected aim(frames: number, glide = frames): void {
    const { v, azimuth } = this;
    const turn = v[P.azimuth]! - this.aimedAzimuth;
    this.aimedAzimuth = frames === 0 ? v[P.azimuth]! : this.aimedAzimuth + turn - 360 * Math.round(turn / 360);
    azimuth.moveTo(this.aimedAzimuth, glide);
    this.distance.moveTo(v[P.distance]!, glide);
    this.height.moveTo(v[P.height]!, glide);
    this.size.moveTo(v[P.size]!, glide);
    this.apart.moveTo(v[P.spread]! / 100, frames);
    this.reach.moveTo(v[P.motionSize]!, glide);
    this.phase.moveTo(v[P.motionPhase]!, glide);
    this.ease.moveTo(v[P.motionEase]! / 100, glide);
    this.distanceLevel.moveTo(v[P.distanceLevel]! / 100, frames);
    this.floor.moveTo(v[P.levelFloor]!, frames);
    this.air.moveTo(v[P.air]! / 100, frames);
    this.doppler.moveTo(v[P.doppler]! / 100, glide);
    this.around.moveTo(v[P.render]!, frames);
    this.law.moveTo(LAWS[v[P.law]!]!, frames);
    this.ears.moveTo(v[P.ears]! / 100, frames);
  }

  /** Does something that puts it elsewhere at once, and lets it catch up from where it was. */
  private leap(change: () => void): void {
    this.find(0);
    const { x, y, z } = this.spot;
    change();
    this.behindLeft = 0;
    this.find(0);
    this.behind.x = x - this.spot.x;
    this.behind.y = y - this.spot.y;
    this.behind.z = z - this.spot.z;
    this.behindLeft = this.isSounding ? 1 : 0;
  }

  /** Value so many frames after the last tick. */
  private find(ahead: number): void {
    const { course, v, spot, behind } = this;
    course.azimuth = this.azimuth.value;
    course.distance = this.distance.value;
    course.height = this.height.value;
    course.motion = MOTIONS[v[P.motion]!]!;
    course.size = this.reach.value;
    course.phase = this.phase.value;
    course.backwards = v[P.motionDirection] === 1;
    course.ease = this.ease.value;
    course.mirror = MIRRORS[v[P.mirror]!]!;
    spotAt(course, this.rounds + (ahead * v[P.motionRate]!) / this.sampleRate, spot);
    if (this.behindLeft === 0) return;
    const part = smoothstep(this.behindLeft);
    spot.x += part * behind.x;
    spot.y += part * behind.y;
    spot.z += part * behind.z;
  }

  private tick(): void {
    const elapsed = this.isSounding ? TICK : 0;
    for (const ramp of this.moving) ramp.skip(TICK);
    this.rounds += (elapsed * this.v[P.motionRate]!) / this.sampleRate;
    this.behindLeft = Math.max(0, this.behindLeft - elapsed / (CATCH_UP_SECONDS * this.sampleRate));
    this.find(TICK);
    const { spot, end } = this;
    const flat = Math.sqrt(spot.x * spot.x + spot.y * spot.y);
    const far = Math.max(NEAREST, Math.sqrt(flat * flat + spot.z * spot.z));
    const level = Math.max(dbToGain(Math.min(0, this.floor.value)), pow(far, -this.distanceLevel.value));
    const wasWide = this.wide;
    const size = this.size.value;
    this.wide = size > 0 || !this.size.settled;
    const half = size > 0 ? size / 2 / Math.sqrt(far * far + (size / 2) * (size / 2)) : 0;
    const spread = half * this.apart.value;
    if (elapsed === 0) {
      this.level = level;
      this.spread = spread;
    } else {
      this.level += this.levelStep * elapsed;
      this.spread += this.spreadStep * elapsed;
    }
    this.levelStep = (level - this.level) / TICK;
    this.aimAir(far * this.air.value, elapsed);
    this.spreadStep = (spread - this.spread) / TICK;
    const { listening } = this;
    listening.law = this.law.value;
    listening.ears = this.ears.value;
    listening.lateFrames = (far / SOUND_SPEED) * this.doppler.value * this.sampleRate;
    const hadHead = this.head;
    const hadOpen = this.open;
    if (this.around.settled) {
      this.open = this.around.value < 1 || this.field !== null;
      this.head = this.around.value > 0;
    }
    // A newly followed value begins at its current one.
    const since = (hadOpen || !this.open) && (hadHead || !this.head) ? elapsed : 0;
    if (!this.wide) {
      this.ends[0].aim(spot, listening, this.open, this.head, since, TICK);
    } else {
      if (!wasWide) {
        this.ends[1].reset();
        this.airStates[1].fill(0);
      }
      // Turned by the angle it takes up: its sine is `half`.
      const cosine = Math.sqrt(1 - half * half);
      for (const n of [0, 1] as const) {
        const sine = n === 0 ? -half : half;
        end.x = spot.x * cosine + spot.y * sine;
        end.y = spot.y * cosine - spot.x * sine;
        end.z = spot.z;
        this.ends[n].aim(end, listening, this.open, this.head, n === 1 && !wasWide ? 0 : since, TICK);
      }
    }
    this.offset = 0;
    this.isSounding = true;
  }

  /** Lets the sections of the air go from where they are to some metres of it by the next tick. */
  private aimAir(metres: number, elapsed: number): void {
    const { sections, sectionSteps, sectionGoals } = this;
    const before = this.airCount;
    this.airCount = this.airFilters.design(metres, sectionGoals, 0);
    this.airActive = elapsed === 0 ? this.airCount : Math.max(before, this.airCount);
    for (let n = 0; n < sections.length; n++) {
      sections[n] = elapsed === 0 ? sectionGoals[n]! : sections[n]! + sectionSteps[n]! * elapsed;
      sectionSteps[n] = (sectionGoals[n]! - sections[n]!) / TICK;
    }
  }

  process(left: Floats, right: Floats, frames: number): void {
    for (let start = 0; start < frames;) {
      if (this.offset === TICK) this.tick();
      if (!this.around.settled) this.listenBoth();
      const count = Math.min(frames - start, TICK - this.offset);
      this.piece(left, right, start, count);
      this.offset += count;
      start += count;
    }
  }

  private listenBoth(): void {
    if (this.head && this.open) return;
    for (const end of this.ends) end.beginBoth(this.listening, this.head ? 'head' : 'open');
    this.head = this.open = true;
  }

  private piece(left: Floats, right: Floats, start: number, frames: number): void {
    const { endBlocks, out, around, aroundBlock, ends, offset, wide, open, head } = this;
    around.fill(aroundBlock, frames);
    out[0].fill(0, 0, frames);
    out[1].fill(0, 0, frames);
    if (wide) this.spreadOut(left, right, start, frames);
    else takeMiddle(endBlocks[0], left, right, frames, start);
    const field = this.field && this.field.map((channel) => channel.subarray(this.fieldAt));
    this.fieldAt += frames;
    for (const n of [0, 1] as const) {
      if (n === 1 && !wide) break;
      this.travel(n, frames);
      ends[n].process(endBlocks[n], out[0], out[1], aroundBlock, open, head, field, offset, frames);
    }
    putSides(left, right, out, frames, 1, start);
  }

  /** Both ends of a wide thing, of half the level each. */
  private spreadOut(left: Floats, right: Floats, start: number, frames: number): void {
    const [first, second] = this.endBlocks;
    const { unlike, spread, spreadStep, offset } = this;
    takeMiddle(unlike, left, right, frames, start);
    for (const one of this.spreads) one.process(unlike, frames);
    for (let i = 0; i < frames; i++) {
      const l = left[start + i]!;
      const r = right[start + i]!;
      const share = spread + spreadStep * (offset + i);
      const other = share * unlike[i]!;
      const level = 0.5 / Math.sqrt(1 + share * share);
      first[i] = level * (l + other);
      second[i] = level * (r - other);
    }
  }

  /** Takes from an end what distance and air do. */
  private travel(n: 0 | 1, frames: number): void {
    const block = this.endBlocks[n];
    const { level, levelStep, offset } = this;
    for (let i = 0; i < frames; i++) block[i] = block[i]! * (level + levelStep * (offset + i));
    for (let section = 0; section < AIR_SECTIONS; section++) {
      if (section < this.airActive) this.throughAir(block, n, section, frames);
      else this.airStates[n].fill(0, 2 * section, 2 * section + 2);
    }
  }

  /** One section, in the transposed second direct form. */
  private throughAir(block: Float64Array, n: 0 | 1, section: number, frames: number): void {
    const { sections, sectionSteps, offset } = this;
    const states = this.airStates[n];
    const at = section * AIR_SECTION;
    const [b0, b1, b2] = [sections[at]!, sections[at + 1]!, sections[at + 2]!];
    const [a1, a2] = [sections[at + 3]!, sections[at + 4]!];
    const [b0Step, b1Step, b2Step] = [sectionSteps[at]!, sectionSteps[at + 1]!, sectionSteps[at + 2]!];
    const [a1Step, a2Step] = [sectionSteps[at + 3]!, sectionSteps[at + 4]!];
    let first = states[2 * section]!;
    let second = states[2 * section + 1]!;
    for (let i = 0; i < frames; i++) {
      const since = offset + i;
      const x = block[i]!;
      const y = (b0 + b0Step * since) * x + first;
      first = (b1 + b1Step * since) * x - (a1 + a1Step * since) * y + second + TINY - TINY;
      second = (b2 + b2Step * since) * x - (a2 + a2Step * since) * y + TINY - TINY;
      block[i] = y;
    }
    states[2 * section] = first;
    states[2 * section + 1] = second;
  }
}

/** The kernel as one that knows sound fields. */
export type FieldKernel = Kernel & Pick<PlaceKernel, 'encodeField'>;

export const createPlace: KernelFactory = (context) => new PlaceKernel(context);
