import { DelayLine } from '../../dsp/delayLine';
import { MakeUpGain } from '../../dsp/makeUpGain';
import { HOP_SECONDS } from '../../dsp/pitchTracker';
import { Ramp } from '../../dsp/ramp';
import { takeMiddle, type Sides } from '../../dsp/sides';
import { Ring, SINC_NEAREST } from '../../dsp/ring';
import { SpectralVoices, type Shift } from '../../dsp/spectralVoices';
import { EIGHTH_TURN } from '../../math/circle';
import { clamp } from '../../math/clamp';
import { cos, gainOrSilence, pow, sin } from '../../math/elementary';
import { smoothstep } from '../../math/smoothstep';
import type { Doubles, Floats } from '../../wasm/arena';
import {
  MAXIMUM_BLOCK,
  DEFAULT_MUSICAL_CONTEXT,
  type Kernel,
  type KernelContext,
  type KernelEvent,
  type KernelFactory,
  type MusicalContext,
} from '../kernel';
import { EqualPowerMix } from '../mixer';
import { ParameterKernel } from '../parameterKernel';
import { itemParameterIndices, parameterIndices } from '../parameterIndices';
import { chosenScale, type Scale } from '../scaleKeys';
import { DelayedChanges } from './delayedChanges';
import { GrainVoice, type Singing } from './grains';
import { PitchMarks } from './pitchMarks';
import { harmonySpec, LONGEST_DELAY_MS, LOWEST_HZ, MOST_HARMONIES, SCALE_CHOICES, VOICES } from './spec';
import { FOLLOWS, LOOSE_SECONDS, SourceKey, Target, type Part } from './targets';

const P = parameterIndices(harmonySpec, [
  'key',
  'scale',
  'method',
  'detectLow',
  'detectHigh',
  'consonants',
  'snap',
  'snapSpeed',
  'dry',
  'mix',
]);
const V = itemParameterIndices(VOICES, [
  'on',
  'follow',
  'interval',
  'degrees',
  'formant',
  'glide',
  'humanize',
  'delay',
  'level',
  'pan',
]);
const PER_VOICE = VOICES.parameters.length;

/** Frames between two looks at what moves. */
const TICK = 64;
/** Look-ahead of the voice method: periods of the lowest pitch, and one analysis. */
const PERIODS_AHEAD = 2.3;
/** Length of a spectral envelope, in seconds of its cepstrum. */
const SHORTEST_ENVELOPE = 0.0015;
const LONGEST_ENVELOPE = 0.006;
/** The source as it snaps sings with the voices, as the last of them. */
const SOURCE = MOST_HARMONIES;
/** Most by which a voice by the spectrum is lifted or lowered to the level of the source. */
const MAKE_UP_DB = 18;
/** A voice by the spectrum is late by so many frames at least. */
const NEAREST = SINC_NEAREST + 1;

/** Source of a voice, and its level in both channels. */
interface Singer {
  readonly target: Target;
  readonly grains: GrainVoice;
  readonly left: Ramp;
  readonly right: Ramp;
  /** It has something to sing. */
  readonly heard: Ramp;
  readonly singing: Singing;
  readonly shift: Shift;
  /** By the spectrum: what holds it back, by how many frames, and what that changes by in a frame. */
  readonly late: Ring;
  lateFrames: number;
  lateStep: number;
  /** By the spectrum: brings the voice to the level of the source. */
  readonly makeUp: MakeUpGain;
  /** Nothing of it is heard up to the next look. */
  silent: boolean;
}

/**
 * Voices that sing with one: their pitches follow from the source's and from the key, notes or an interval; they are made of
 * the source's periods, or of its spectrum where it is more than one voice. What is set or played is taken up when the sound
 * is heard that it was meant for.
 */
class HarmonyKernel extends ParameterKernel implements Kernel {
  readonly canSleep = true;
  private readonly ring: Ring;
  private readonly marks: PitchMarks;
  private readonly spectral: SpectralVoices;
  private readonly singers: readonly Singer[];
  private readonly shifts: (Shift | null)[];
  private readonly source = new SourceKey();
  private readonly changes = new DelayedChanges();
  private readonly mix: EqualPowerMix;
  private readonly dryLines: readonly [DelayLine, DelayLine];
  private readonly dry: readonly [Floats, Floats];
  private readonly middle: Doubles;
  private readonly voice: Doubles;
  private readonly wet: Sides;
  private readonly voiceLatency: number;
  /** Keys that are held, the lowest first. */
  private readonly held: number[] = [];
  private music: MusicalContext;
  private scale: Scale = DEFAULT_MUSICAL_CONTEXT.scale;
  /** Values of key and scale that it is made of. */
  private scaleFor: readonly [number, number] = [NaN, NaN];
  /** True for the spectral method, and its level while the method changes. */
  private polyphonic = false;
  private readonly presence = new Ramp(1);
  private frame = 0;
  private offset = TICK;
  /** The mark nearest to what is heard, and the pitch there; 0 where there is none. */
  private nearest = 0;
  private hz = 0;

  constructor(context: KernelContext) {
    super(context);
    const { sampleRate, music, memory } = context;
    this.music = music;
    this.voiceLatency = Math.ceil((PERIODS_AHEAD / LOWEST_HZ + HOP_SECONDS) * sampleRate) + 2 * TICK;
    const longest = Math.ceil((LONGEST_DELAY_MS / 1000 + LOOSE_SECONDS + 3 / LOWEST_HZ) * sampleRate);
    this.ring = new Ring(memory, this.voiceLatency + longest + 2 * MAXIMUM_BLOCK);
    this.marks = new PitchMarks(memory, sampleRate, LOWEST_HZ);
    this.spectral = new SpectralVoices(memory, sampleRate, SOURCE + 1);
    this.singers = Array.from({ length: SOURCE + 1 }, (_, n): Singer => {
      const part: Part = { on: false, follow: 'interval', interval: 0, degrees: 0, glide: 0, loose: 0, delay: 0 };
      return {
        target: new Target(part, sampleRate, n),
        grains: new GrainVoice(memory, this.ring, this.marks),
        left: new Ramp(0),
        right: new Ramp(0),
        heard: new Ramp(1),
        late: new Ring(memory, longest + 2 * MAXIMUM_BLOCK),
        makeUp: new MakeUpGain(sampleRate, TICK, MAKE_UP_DB),
        lateFrames: NEAREST,
        lateStep: 0,
        silent: true,
        singing: { ratio: 1, formants: 1, late: 0, consonants: true },
        shift: { ratio: 1, formants: 1 },
      };
    });
    this.shifts = this.singers.map(() => null);
    this.mix = new EqualPowerMix(memory, this.v[P.mix]!);
    const line = () => new DelayLine(Math.max(this.voiceLatency, this.spectral.lateFrames + NEAREST) + 1);
    this.dryLines = [line(), line()];
    const block = () => memory.doubles(MAXIMUM_BLOCK);
    this.dry = [memory.floats(MAXIMUM_BLOCK), memory.floats(MAXIMUM_BLOCK)];
    this.middle = block();
    this.voice = memory.doubles(MAXIMUM_BLOCK + 4);
    this.wet = [block(), block()];
    this.reset();
  }

  get latencyFrames(): number {
    return this.polyphonic ? this.spectral.lateFrames + NEAREST : this.voiceLatency;
  }

  tailSeconds(): number {
    const delays = Array.from({ length: MOST_HARMONIES }, (_, n) => this.v[n * PER_VOICE + V.delay]!);
    return Math.max(...delays) / 1000 + LOOSE_SECONDS + 2 / LOWEST_HZ;
  }

  override suspend(): void {
    this.changes.applyUntil(Infinity, this.change, this.hear);
    this.isSounding = false;
  }

  override setParameter(index: number, value: number, frames = this.rampFrames): void {
    if (this.isSounding) this.changes.addParameter(this.frame, index, value, frames);
    else {
      this.v[index] = value;
      this.aim(0);
    }
  }

  handleEvent(event: KernelEvent, offset: number): void {
    this.changes.addEvent(this.frame + offset, event);
  }

  setMusicalContext(music: MusicalContext): void {
    this.music = music;
    this.takeScale();
  }

  locate(frame: number): void {
    const heard = frame - this.latencyFrames;
    for (const { target } of this.singers) target.locate(heard, this.isSounding);
  }

  reset(): void {
    // Queued changes are applied at once.
    this.changes.applyUntil(Infinity, this.change, this.hear);
    this.isSounding = false;
    this.polyphonic = this.v[P.method] === 1;
    this.marks.exact = !this.polyphonic;
    this.presence.moveTo(1, 0);
    this.ring.clear();
    for (const line of this.dryLines) line.clear();
    this.aim(0);
    this.marks.reset();
    this.spectral.reset();
    this.source.reset();
    this.frame = this.nearest = this.hz = 0;
    this.offset = TICK;
    for (const { grains, target, late, makeUp } of this.singers) {
      grains.stop();
      target.begin();
      late.clear();
      makeUp.reset();
    }
  }

  readMeters(out: Float64Array): void {
    out[0] = this.hz > 0 ? this.hz : NaN;
    for (let n = 0; n < MOST_HARMONIES; n++) {
      const { target, left, right } = this.singers[n]!;
      const heard = this.hz > 0 && target.sings && (left.value > 0 || right.value > 0);
      out[1 + n] = heard ? this.hz * target.ratio : NaN;
    }
  }

  private readonly change = (index: number, value: number, frames: number): void => {
    this.v[index] = value;
    this.aim(frames);
  };

  private readonly hear = (event: KernelEvent): void => {
    const { held } = this;
    const at = held.indexOf(event.key);
    if (event.kind === 'noteOff') {
      if (at >= 0) held.splice(at, 1);
    } else if (at < 0) {
      held.push(event.key);
      held.sort((a, b) => a - b);
    }
  };

  private takeScale(): void {
    const { v, music } = this;
    this.scaleFor = [v[P.key]!, v[P.scale]!];
    const [name] = SCALE_CHOICES[v[P.scale]!]!;
    this.scale = chosenScale(v[P.key] === 0 ? null : v[P.key]! - 1, name === 'session' ? null : name, music.scale);
  }

  protected aim(frames: number): void {
    const { v, singers } = this;
    if (this.scaleFor[0] !== v[P.key] || this.scaleFor[1] !== v[P.scale]) this.takeScale();
    this.marks.limit(v[P.detectLow]!, v[P.detectHigh]!);
    this.mix.moveTo(v[P.mix]!, frames);
    for (let n = 0; n < MOST_HARMONIES; n++) {
      const at = n * PER_VOICE;
      const { target, left, right, singing, shift } = singers[n]!;
      const { part } = target;
      part.on = v[at + V.on] === 1;
      part.follow = FOLLOWS[v[at + V.follow]!]!;
      part.interval = v[at + V.interval]!;
      part.degrees = v[at + V.degrees]!;
      part.glide = v[at + V.glide]! / 1000;
      part.loose = v[at + V.humanize]! / 100;
      part.delay = v[at + V.delay]! / 1000;
      singing.consonants = v[P.consonants] === 1;
      singing.formants = pow(2, v[at + V.formant]! / 12);
      shift.formants = singing.formants;
      const gain = part.on ? gainOrSilence(v[at + V.level]!) : 0;
      const angle = EIGHTH_TURN * (1 + v[at + V.pan]! / 100);
      left.moveTo(Math.SQRT2 * gain * cos(angle), frames);
      right.moveTo(Math.SQRT2 * gain * sin(angle), frames);
    }
    const { left, right } = singers[SOURCE]!;
    left.moveTo(gainOrSilence(v[P.dry]!), frames);
    right.moveTo(gainOrSilence(v[P.dry]!), frames);
  }

  private tick(): void {
    const { v, sampleRate, source, scale, singers, frame } = this;
    const heard = frame - this.latencyFrames;
    this.changes.applyUntil(heard, this.change, this.hear);
    this.changeMethod();
    const seconds = TICK / sampleRate;
    this.hz = this.pitchAt(heard);
    source.hear(this.hz, scale, v[P.snap]! / 100, v[P.snapSpeed]! / 1000, seconds);
    let note = 0;
    singers.forEach((singer, n) => {
      const { target, grains, singing, shift, left, right, heard: sounds, makeUp } = singer;
      const { part } = target;
      const sung = part.on && part.follow === 'notes' ? (this.held[note++] ?? null) : null;
      target.advance(n === SOURCE ? 0 : source.wanted(part, scale, sung), source.corrected, TICK, seconds);
      sounds.moveTo(target.sings ? 1 : 0, this.isSounding ? this.rampFrames : 0);
      const silent = (left.idle && right.idle) || sounds.idle;
      singer.silent = silent;
      if (silent) for (const ramp of [left, right]) ramp.skip(TICK);
      singing.ratio = shift.ratio = target.ratio;
      singing.late = Math.round(target.late * sampleRate);
      this.shifts[n] = silent ? null : shift;
      if (this.polyphonic && !silent) makeUp.tick();
      if (this.polyphonic || silent) grains.stop();
      else grains.lay(frame, frame + TICK, this.voiceLatency, singing);
      const late = NEAREST + singing.late;
      singer.lateFrames = this.isSounding ? singer.lateFrames + TICK * singer.lateStep : late;
      singer.lateStep = (late - singer.lateFrames) / TICK;
    });
    this.offset = 0;
    this.isSounding = true;
  }

  /** Takes up the other method while nothing is heard. */
  private changeMethod(): void {
    const wanted = this.v[P.method] === 1;
    if (wanted === this.polyphonic) {
      if (this.presence.settled && this.presence.value < 1) this.presence.moveTo(1, this.rampFrames);
    } else if (this.presence.idle) {
      this.polyphonic = wanted;
      this.marks.exact = !wanted;
      this.spectral.reset();
      for (const { makeUp } of this.singers) makeUp.reset();
    } else this.presence.moveTo(0, this.rampFrames);
  }

  /** The source's pitch at a place in the sound; 0 where it has none. */
  private pitchAt(at: number): number {
    const { marks } = this;
    const away = (n: number) => Math.abs(marks.mark(n).at - at);
    this.nearest = clamp(Math.max(0, marks.count - 900), marks.count - 1, this.nearest);
    while (this.nearest + 1 < marks.count && away(this.nearest + 1) <= away(this.nearest)) this.nearest++;
    const { voiced, period } = marks.mark(this.nearest);
    return voiced ? this.sampleRate / period : 0;
  }

  process(left: Floats, right: Floats, frames: number): void {
    for (let start = 0; start < frames;) {
      if (this.offset === TICK) this.tick();
      const count = Math.min(frames - start, TICK - this.offset);
      this.piece(left, right, start, count);
      this.frame += count;
      this.offset += count;
      start += count;
    }
  }

  private piece(left: Floats, right: Floats, start: number, frames: number): void {
    const { middle, ring, marks, singers, voice, wet, spectral, polyphonic } = this;
    takeMiddle(middle, left, right, frames, start);
    ring.write(middle, frames, false);
    for (let at = 0; at < frames;) at += marks.take(middle, at, frames);
    for (const side of wet) side.fill(0, 0, frames);
    this.delayDry(left, right, start, frames);
    const sourcePower = polyphonic ? middlePower(this.dry, frames) : 0;
    for (let n = 0; n < singers.length; n++) {
      const singer = singers[n]!;
      const { grains, left: toLeft, right: toRight, heard, late, makeUp } = singer;
      if (singer.silent) continue;
      voice.fill(0, 0, frames);
      if (polyphonic) {
        spectral.read(n, voice, frames);
        makeUp.process(voice, frames, sourcePower);
        late.write(voice, frames, false);
        late.read(voice, singer.lateFrames, singer.lateStep, this.offset, SINC_NEAREST, frames, frames);
      } else grains.render(voice, this.frame, frames);
      for (let i = 0; i < frames; i++) {
        const x = heard.next() * voice[i]!;
        wet[0][i] = wet[0][i]! + toLeft.next() * x;
        wet[1][i] = wet[1][i]! + toRight.next() * x;
      }
    }
    if (polyphonic) spectral.take(middle, frames, this.shifts, this.envelopeFrames);
    this.blend(left, right, start, frames);
  }

  /** Cepstral length of the envelope: less than a period where there is one pitch, else enough for formants. */
  private get envelopeFrames(): number {
    const { sampleRate, hz } = this;
    return sampleRate * clamp(SHORTEST_ENVELOPE, LONGEST_ENVELOPE, hz > 0 ? 0.75 / hz : SHORTEST_ENVELOPE);
  }

  /** Takes what comes in, and has it late by the latency. */
  private delayDry(left: Floats, right: Floats, start: number, frames: number): void {
    const { dryLines, dry, latencyFrames } = this;
    const [first, second] = dryLines;
    for (let i = 0; i < frames; i++) {
      first.write(left[start + i]!);
      second.write(right[start + i]!);
      dry[0][i] = first.readInteger(latencyFrames + 1);
      dry[1][i] = second.readInteger(latencyFrames + 1);
    }
  }

  /** Puts the delayed source together with the voices. */
  private blend(left: Floats, right: Floats, start: number, frames: number): void {
    const { dry, wet, presence } = this;
    if (!presence.settled || presence.value !== 1) {
      for (let i = 0; i < frames; i++) {
        const heard = smoothstep(presence.next());
        for (const side of [0, 1] as const) {
          dry[side][i] = heard * dry[side][i]!;
          wet[side][i] = heard * wet[side][i]!;
        }
      }
    }
    this.mix.blend(dry[0], dry[1], wet, frames);
    for (let i = 0; i < frames; i++) {
      left[start + i] = dry[0][i]!;
      right[start + i] = dry[1][i]!;
    }
  }
}

/** Sum of squares of the middle of both sides. */
function middlePower([left, right]: readonly [Floats, Floats], frames: number): number {
  let sum = 0;
  for (let i = 0; i < frames; i++) {
    const middle = (left[i]! + right[i]!) / 2;
    sum += middle * middle;
  }
  return sum;
}

export const createHarmony: KernelFactory = (context) => new HarmonyKernel(context);
