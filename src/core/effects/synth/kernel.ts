import { Ramp } from '../../dsp/ramp';
import { TWO_PI } from '../../math/circle';
import { gainOrSilence, pow } from '../../math/elementary';
import type { Doubles, Floats } from '../../wasm/arena';
import { MAXIMUM_BLOCK, type Kernel, type KernelContext, type KernelEvent, type KernelFactory } from '../kernel';
import { GlidingValues } from '../glidingValues';
import { ParameterKernel } from '../parameterKernel';
import { parameterIndices } from '../parameterIndices';
import { synthSpec } from './spec';
import { VOICE_FILTERS, WAVES, type Tone } from './tone';
import { MOST_VOICES } from './mostVoices';
import { Voices } from './voices';

const P = parameterIndices(synthSpec, [
  'wave',
  'pulseWidth',
  'fmRatio',
  'fmDepth',
  'noise',
  'unison',
  'detune',
  'spread',
  'transpose',
  'glide',
  'voices',
  'vibrato',
  'vibratoRate',
  'filterType',
  'cutoff',
  'resonance',
  'tracking',
  'filterDepth',
  'filterAttack',
  'filterDecay',
  'filterSustain',
  'filterRelease',
  'attack',
  'decay',
  'sustain',
  'release',
  'velocity',
  'level',
]);

/** Level of the softest note, of one at full velocity. */
const SOFTEST = 0.05;
/** Frames between two looks at parameters that move. */
const TICK = 32;
/** The filter rings on. */
const RINGS_SECONDS = 0.2;

/** Parameters that move without steps while notes sound. */
const GLIDING = [
  P.pulseWidth,
  P.fmDepth,
  P.noise,
  P.detune,
  P.spread,
  P.transpose,
  P.vibrato,
  P.cutoff,
  P.resonance,
  P.tracking,
  P.filterDepth,
];

/**
 * A polyphonic instrument: band-limited waves from tables, phase modulation, noise, a filter of two poles and two
 * envelopes a voice. What comes in goes out beside it.
 */
class SynthKernel extends ParameterKernel implements Kernel {
  readonly latencyFrames = 0;
  readonly canSleep = true;
  private readonly tone = {
    envelope: { attack: 0.01, decay: 0.1, sustain: 1, release: 0.1 },
    filterEnvelope: { attack: 0.01, decay: 0.1, sustain: 1, release: 0.1 },
  } as Tone;
  private readonly voices: Voices;
  private readonly level = new Ramp(0);
  private readonly gains = new Float64Array(MAXIMUM_BLOCK);
  private readonly left: Doubles;
  private readonly right: Doubles;
  private softness = 1;
  private readonly gliding = new GlidingValues(GLIDING);
  /** Frames to the next update of gliding values. */
  private due = TICK;
  private moves = false;

  constructor(context: KernelContext) {
    super(context);
    const { memory, sampleRate } = context;
    this.voices = new Voices(memory, sampleRate, this.tone);
    this.left = memory.doubles(MAXIMUM_BLOCK);
    this.right = memory.doubles(MAXIMUM_BLOCK);
    this.reset();
  }

  /** Without end while a key is held. */
  tailSeconds(plays = false): number {
    if (this.voices.holds) return Infinity;
    return plays || !this.voices.silent ? 2 * (this.v[P.release]! / 1000) + RINGS_SECONDS : 0;
  }

  handleEvent(event: KernelEvent, offset: number): void {
    const { softness } = this;
    this.voices.happens(
      event.kind === 'noteOn' ? { ...event, velocity: SOFTEST + (1 - SOFTEST) * pow(event.velocity, softness) } : event,
      offset,
    );
  }

  locate(): void {}

  reset(): void {
    this.aim(0);
    this.voices.silence();
  }

  readMeters(out: Float64Array): void {
    this.voices.tellKeys(out, 0, MOST_VOICES);
  }

  protected aim(frames: number): void {
    const { v, tone, voices } = this;
    this.gliding.moveTo(v, frames);
    tone.wave = WAVES[v[P.wave]!]!;
    tone.unison = Math.round(v[P.unison]!);
    tone.fmRatio = v[P.fmRatio]!;
    tone.vibratoHz = v[P.vibratoRate]!;
    tone.glide = v[P.glide]! / 1000;
    tone.filter = VOICE_FILTERS[v[P.filterType]!]!;
    envelopeOf(tone.filterEnvelope, v, P.filterAttack, P.filterDecay, P.filterSustain, P.filterRelease);
    envelopeOf(tone.envelope, v, P.attack, P.decay, P.sustain, P.release);
    voices.most = Math.round(v[P.voices]!);
    this.softness = (2 * v[P.velocity]!) / 100;
    this.level.moveTo(gainOrSilence(v[P.level]!), frames);
    this.look(0);
  }

  /** Takes up what moves where it is after so many frames. */
  private look(frames: number): void {
    const { tone, gliding } = this;
    gliding.skip(frames);
    const at = (index: number) => gliding.at(index);
    tone.pulseWidth = at(P.pulseWidth) / 100;
    tone.fmDepth = at(P.fmDepth) / TWO_PI;
    tone.noise = at(P.noise) / 100;
    tone.detuneCents = at(P.detune);
    tone.spread = at(P.spread) / 100;
    tone.shift = at(P.transpose);
    tone.vibratoCents = at(P.vibrato);
    tone.cutoffHz = at(P.cutoff);
    tone.resonance = at(P.resonance);
    tone.tracking = at(P.tracking) / 100;
    tone.filterDepth = at(P.filterDepth);
    this.moves = gliding.moves;
    this.due = TICK;
  }

  process(left: Floats, right: Floats, frames: number): void {
    const { voices, gains, level } = this;
    level.fill(gains, frames);
    for (let start = 0; start < frames;) {
      if (this.moves && this.due === 0) this.look(TICK);
      const count = this.moves ? Math.min(this.due, frames - start) : frames - start;
      if (!voices.silent) this.play(left, right, start, count);
      if (this.moves) this.due -= count;
      start += count;
    }
  }

  private play(left: Floats, right: Floats, start: number, frames: number): void {
    const { voices, gains, left: l, right: r } = this;
    l.fill(0, 0, frames);
    r.fill(0, 0, frames);
    voices.render(l, r, frames);
    for (let i = 0; i < frames; i++) {
      const at = start + i;
      left[at] = left[at]! + gains[at]! * l[i]!;
      right[at] = right[at]! + gains[at]! * r[i]!;
    }
  }
}

function envelopeOf(
  envelope: Tone['envelope'],
  v: readonly number[],
  attack: number,
  decay: number,
  sustain: number,
  release: number,
): void {
  envelope.attack = v[attack]! / 1000;
  envelope.decay = v[decay]! / 1000;
  envelope.sustain = v[sustain]! / 100;
  envelope.release = v[release]! / 1000;
}

export const createSynth: KernelFactory = (context) => new SynthKernel(context);
