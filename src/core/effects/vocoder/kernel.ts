import { MOST_BANDS, SPACINGS, type BandLayout } from '../../dsp/bandLayout';
import { FilterPair } from '../../dsp/filterPair';
import { LoudnessGain, UNHEARD } from '../../dsp/loudnessGain';
import { Noise } from '../../dsp/noise';
import { Ramp } from '../../dsp/ramp';
import { takeMiddle, takeSides, type Sides } from '../../dsp/sides';
import { TWO_PI } from '../../math/circle';
import { dbToGain, exp, gainOrSilence, gainToDb } from '../../math/elementary';
import { settled } from '../../math/settled';
import type { Doubles, Floats } from '../../wasm/arena';
import { wasm } from '../../wasm/module';
import {
  MAXIMUM_BLOCK,
  type Inputs,
  type Kernel,
  type KernelContext,
  type KernelEvent,
  type KernelFactory,
  type SidechainBlock,
  type MusicalContext,
} from '../kernel';
import { GlidingValues } from '../glidingValues';
import { EqualPowerMix } from '../mixer';
import { ParameterKernel } from '../parameterKernel';
import { parameterIndices } from '../parameterIndices';
import type { ResolvedSetting } from '../settings';
import { WAVES } from '../synth/tone';
import { MOST_VOICES } from '../synth/mostVoices';
import { BankPair, MEASURED, TICK } from './bankPair';
import { BuiltInCarrier, NOTE_SOURCES } from './builtInCarrier';
import { PRESENT } from './carrierEvening';
import { Cuts } from './cuts';
import { CUT_OFF_LOW, vocoderSpec } from './spec';
import { VoiceChain } from './voiceChain';

const P = parameterIndices(vocoderSpec, [
  'carrier',
  'carrierWave',
  'carrierVoices',
  'carrierDetune',
  'carrierWidth',
  'carrierFm',
  'carrierNoise',
  'carrierCutoff',
  'noteSource',
  'transpose',
  'glide',
  'bands',
  'order',
  'spacing',
  'low',
  'high',
  'bandwidth',
  'even',
  'formantShift',
  'attack',
  'release',
  'freeze',
  'freezeLow',
  'freezeHigh',
  'unvoiced',
  'unvoicedNoise',
  'sibilance',
  'inputChain',
  'inputLowCut',
  'inputLevelling',
  'voiceLevel',
  'voiceLowCut',
  'voiceHighCut',
  'carrierLevel',
  'carrierLowCut',
  'carrierHighCut',
  'level',
  'mix',
]);
/** Parameters that move without steps while it sounds. */
const GLIDING = [
  P.even,
  P.carrierDetune,
  P.carrierWidth,
  P.carrierFm,
  P.carrierNoise,
  P.carrierCutoff,
  P.transpose,
  P.inputLowCut,
  P.inputLevelling,
  P.voiceLowCut,
  P.voiceHighCut,
  P.carrierLowCut,
  P.carrierHighCut,
];

/** Formants take so many times as long as other parameters: they pass from band to band. */
const FORMANT_GLIDE = 4;
/** A key of the built-in carrier, as a factor. */
const CARRIER_GAIN = 0.25;
/** Time constant of the carrier's mean power. */
const PRESENCE_SECONDS = 0.05;
const SIBILANT_HZ = 5000;
/** Uniform noise of this gain is as strong as a sound of level 1. */
const NOISE_GAIN = Math.sqrt(3);
const SILENT_DB = -120;
const RINGS_SECONDS = 0.4;

const levelDb = (gain: number) => (gain > 1e-6 ? gainToDb(gain) : SILENT_DB);
/**
 * A channel vocoder (Dudley, "Remaking speech", J. Acoust. Soc. Am. 11, 1939): a bank of band-pass filters follows the levels
 * of the voice, and a second one, alike, gives them to the bands of a carrier. Where the voice hisses noise takes the
 * carrier's place, as strong as that is. Nothing of the bands sounds while either is silent.
 */
class VocoderKernel extends ParameterKernel implements Kernel {
  readonly latencyFrames = 0;
  private readonly wasmKernels = wasm().kernels;
  private readonly carrier: BuiltInCarrier;
  private readonly chain: VoiceChain;
  private readonly noise = new Noise(77);
  private readonly gliding = new GlidingValues(GLIDING);
  private readonly banks: BankPair;
  private wanted: BandLayout;
  private readonly mix: EqualPowerMix;
  /** Brings what comes out of the bands to the loudness of the voice, as far as the carrier is evened. */
  private readonly match: LoudnessGain;
  private readonly matchGains = new Float64Array(MAXIMUM_BLOCK);
  private readonly formants = new Ramp(0);
  private readonly level = new Ramp(0);
  private readonly voiceGain = new Ramp(0);
  private readonly carrierGain = new Ramp(0);
  private readonly sibilance = new Ramp(0);
  private readonly unvoiced = new Ramp(0);
  private readonly unvoicedGain = new Ramp(0);
  /** 0 for the built-in carrier, 1 for a track. */
  private readonly track = new Ramp(0);
  private readonly voiceCuts: Cuts;
  private readonly carrierCuts: Cuts;
  /** Low-pass of the built-in carrier. */
  private readonly dull: Cuts;
  private readonly sibilant: FilterPair;
  private readonly voice: Doubles;
  private readonly spare: Doubles;
  private readonly sides: Sides;
  private readonly passed: Sides;
  private readonly wet: Sides;
  private readonly beside: Sides;
  private readonly gains = new Float64Array(MAXIMUM_BLOCK);
  private readonly levels: Doubles;
  private presence = 0;
  /** The same frame by frame. */
  private readonly presences = new Float64Array(MAXIMUM_BLOCK);
  private readonly presenceRate: number;
  private offset = TICK;
  /** Input up to the next analysis. */
  private readonly heard = { own: true, voice: false, carrier: false, sibilance: false };

  constructor(context: KernelContext) {
    super(context);
    const { memory, sampleRate, music, settings } = context;
    const block = () => memory.doubles(MAXIMUM_BLOCK);
    this.carrier = new BuiltInCarrier(memory, sampleRate, music);
    this.chain = new VoiceChain(memory, sampleRate);
    this.wanted = this.layoutSet();
    this.banks = new BankPair(memory, sampleRate, this.wanted);
    this.mix = new EqualPowerMix(memory, this.v[P.mix]!);
    this.voiceCuts = new Cuts(memory, sampleRate);
    this.carrierCuts = new Cuts(memory, sampleRate);
    this.dull = new Cuts(memory, sampleRate);
    this.sibilant = new FilterPair(memory, sampleRate);
    this.sibilant.configureBoth('highPass', SIBILANT_HZ, Math.SQRT1_2);
    this.levels = block();
    this.voice = block();
    this.spare = block();
    this.sides = [block(), block()];
    this.passed = [block(), block()];
    this.wet = [block(), block()];
    this.beside = [block(), block()];
    this.match = new LoudnessGain(sampleRate, MEASURED * TICK, UNHEARD);
    this.presenceRate = 1 - exp(-1 / (PRESENCE_SECONDS * sampleRate));
    if (settings.notes) this.setSetting('notes', settings.notes);
    this.reset();
  }

  /** It holds a mouth, and so sound, for as long as bands are frozen. */
  get canSleep(): boolean {
    return this.v[P.freeze] === 0;
  }

  tailSeconds(): number {
    if (!this.canSleep) return Infinity;
    // Levels fall by the base of logarithms in a release.
    return (11 * this.v[P.release]!) / 1000 + RINGS_SECONDS / Math.min(1, this.v[P.bandwidth]!);
  }

  setSetting(id: string, setting: ResolvedSetting): void {
    if (id === 'notes' && setting.kind === 'notes') this.carrier.setChord(setting.keys);
  }

  override suspend(): void {
    super.suspend();
    this.carrier.rest();
  }

  setMusicalContext(music: MusicalContext): void {
    this.carrier.follow(music);
  }

  handleEvent(event: KernelEvent, offset: number): void {
    this.carrier.happens(event, offset);
  }

  locate(): void {}

  reset(): void {
    this.aim(0);
    this.banks.reset(this.wanted, this.formants.value);
    this.match.reset();
    this.carrier.reset();
    this.chain.reset();
    this.sibilant.reset();
    this.voiceCuts.reset();
    this.carrierCuts.reset();
    this.dull.reset();
    this.presence = 0;
    this.offset = TICK;
  }

  readMeters(out: Float64Array): void {
    const { banks } = this;
    const outGain = banks.gain * this.level.value * (1 + banks.even * (this.match.value - 1));
    for (let band = 0; band < MOST_BANDS; band++) {
      const there = band < banks.bands;
      out[band] = there ? levelDb(banks.levelOf(band)) : SILENT_DB;
      out[MOST_BANDS + band] = there ? levelDb(banks.carrierLevel(band)) : SILENT_DB;
      out[2 * MOST_BANDS + band] = there ? levelDb(outGain * banks.outLevel(band)) : SILENT_DB;
    }
    this.carrier.tellKeys(out, 3 * MOST_BANDS, MOST_VOICES);
    out[3 * MOST_BANDS + MOST_VOICES] = levelDb(Math.sqrt(this.chain.power));
  }

  private layoutSet(): BandLayout {
    const { v } = this;
    return {
      bands: Math.round(v[P.bands]!),
      order: 2 * v[P.order]! + 2,
      spacing: SPACINGS[v[P.spacing]!]!,
      lowHz: v[P.low]!,
      highHz: v[P.high]!,
      bandwidth: v[P.bandwidth]!,
    };
  }

  override setParameter(index: number, value: number, frames?: number): void {
    this.v[index] = value;
    this.aim(frames ?? this.rampFrames, frames ?? FORMANT_GLIDE * this.rampFrames);
  }

  protected aim(frames: number, glide = frames): void {
    const { v, carrier } = this;
    this.wanted = this.layoutSet();
    const { mouth } = this.banks;
    mouth.attack = v[P.attack]!;
    mouth.release = v[P.release]!;
    mouth.frozen = v[P.freeze] === 1;
    mouth.frozenFrom = v[P.freezeLow]!;
    mouth.frozenTo = v[P.freezeHigh]!;
    this.gliding.moveTo(v, frames);
    this.formants.moveTo(v[P.formantShift]!, glide);
    const { tone } = carrier;
    tone.wave = WAVES[v[P.carrierWave]!]!;
    tone.unison = Math.round(v[P.carrierVoices]!);
    tone.glide = v[P.glide]! / 1000;
    carrier.setSource(NOTE_SOURCES[v[P.noteSource]!]!);
    this.mix.moveTo(v[P.mix]!, frames);
    this.level.moveTo(dbToGain(v[P.level]!), frames);
    this.voiceGain.moveTo(gainOrSilence(v[P.voiceLevel]!), frames);
    this.carrierGain.moveTo(gainOrSilence(v[P.carrierLevel]!), frames);
    this.sibilance.moveTo(gainOrSilence(v[P.sibilance]!), frames);
    this.unvoiced.moveTo(v[P.unvoiced]! / 100, frames);
    this.unvoicedGain.moveTo(dbToGain(v[P.unvoicedNoise]!), frames);
    this.track.moveTo(v[P.carrier]!, frames);
    if (frames === 0) this.tuneCarrier();
  }

  private tuneCarrier(): void {
    const { carrier, gliding } = this;
    const { tone } = carrier;
    tone.detuneCents = gliding.at(P.carrierDetune);
    tone.spread = gliding.at(P.carrierWidth) / 100;
    tone.fmDepth = gliding.at(P.carrierFm) / TWO_PI;
    tone.noise = gliding.at(P.carrierNoise) / 100;
    tone.shift = gliding.at(P.transpose);
  }

  private tick(): void {
    const { v, gliding, formants } = this;
    gliding.skip(TICK);
    this.tuneCarrier();
    this.banks.even = gliding.at(P.even) / 100;
    const before = formants.value;
    if (this.banks.tick(this.wanted, before, formants.skip(TICK))) this.match.giveUp();
    this.matchLoudness();
    const ready = v[P.inputChain] === 1;
    const lowCut = ready ? gliding.at(P.inputLowCut) : CUT_OFF_LOW;
    this.chain.aim(lowCut, ready ? gliding.at(P.inputLevelling) / 100 : 0, TICK);
    this.voiceCuts.aim(gliding.at(P.voiceLowCut), gliding.at(P.voiceHighCut), TICK);
    this.carrierCuts.aim(gliding.at(P.carrierLowCut), gliding.at(P.carrierHighCut), TICK);
    this.dull.aim(CUT_OFF_LOW, gliding.at(P.carrierCutoff), TICK);
    const moves = (ramp: Ramp, rest: number) => !ramp.settled || ramp.value !== rest;
    this.heard.own = moves(this.track, 1);
    this.heard.voice = moves(this.voiceGain, 0);
    this.heard.carrier = moves(this.carrierGain, 0);
    this.heard.sibilance = moves(this.sibilance, 0);
    this.offset = 0;
  }

  process(left: Floats, right: Floats, frames: number, inputs?: Inputs): void {
    for (let start = 0; start < frames;) {
      if (this.offset === TICK) this.tick();
      const count = Math.min(frames - start, TICK - this.offset);
      this.piece(left, right, start, count, inputs?.[0] ?? null);
      this.offset += count;
      start += count;
    }
    this.mix.blend(left, right, this.wet, frames);
  }

  private piece(left: Floats, right: Floats, start: number, frames: number, key: SidechainBlock | null): void {
    const { voice, spare, chain, carrier, sides, levels, passed, wet, wasmKernels } = this;
    takeMiddle(voice, left, right, frames, start);
    chain.process(voice, spare, frames);
    carrier.hear(voice, frames);
    this.fillCarrier(key ? key.left : left, key ? key.right : right, start, frames);
    this.keepPassed(left, right, start, frames);
    this.hissInto(frames);
    this.fillLevels(frames);
    const made = this.banks.work(voice, sides, this.offset, frames);
    for (const side of [0, 1] as const) {
      const at = wet[side].byteOffset + 8 * start;
      const beside = passed[side].byteOffset;
      wasmKernels.mixScaled(at, made[side].byteOffset, 0, levels.byteOffset, beside, 1, frames);
    }
    if (this.heard.sibilance) this.addSibilance(start, frames);
  }

  /** Fills `levels` with the output level times the gain that matches the loudness. */
  private fillLevels(frames: number): void {
    const { match, matchGains, levels, banks } = this;
    this.level.fill(levels, frames);
    if (banks.even === 0 && match.stands) return;
    match.fill(matchGains, 0, frames);
    for (let i = 0; i < frames; i++) levels[i] = levels[i]! * (1 + banks.even * (matchGains[i]! - 1));
  }

  /** Follows the loudness of voice and output, but not while bands are frozen. */
  private matchLoudness(): void {
    const { match, banks, chain, v } = this;
    const { fresh, voice, made } = banks.loudness;
    if (!fresh) return;
    const follows = banks.even === 0 ? 'off' : v[P.freeze] === 1 ? 'held' : 'on';
    match.look(follows, voice / (chain.lift * chain.lift), made);
  }

  private fillCarrier(keyLeft: Floats, keyRight: Floats, start: number, frames: number): void {
    const { sides, track, carrier, gains } = this;
    const [l, r] = sides;
    l.fill(0, 0, frames);
    r.fill(0, 0, frames);
    track.fill(gains, frames);
    if (this.heard.own) {
      carrier.render(l, r, frames);
      this.dull.process(l, r, frames);
    } else carrier.passBlock();
    for (let i = 0; i < frames; i++) {
      const share = gains[i]!;
      l[i] = CARRIER_GAIN * (1 - share) * l[i]! + share * keyLeft[start + i]!;
      r[i] = CARRIER_GAIN * (1 - share) * r[i]! + share * keyRight[start + i]!;
    }
  }

  /** Sound beside the bands: the dry voice and the carrier, each between its cuts. */
  private keepPassed(left: Floats, right: Floats, start: number, frames: number): void {
    const { passed, beside, sides, voiceGain, carrierGain } = this;
    for (const side of [0, 1] as const) passed[side].fill(0, 0, frames);
    if (this.heard.voice) {
      takeSides(beside, left, right, frames, 1, start);
      this.addBeside(this.voiceCuts, voiceGain, frames);
    }
    if (this.heard.carrier) {
      for (const side of [0, 1] as const) for (let i = 0; i < frames; i++) beside[side][i] = sides[side][i]!;
      this.addBeside(this.carrierCuts, carrierGain, frames);
    }
  }

  private addBeside(cuts: Cuts, gain: Ramp, frames: number): void {
    const { passed, beside, gains } = this;
    cuts.process(beside[0], beside[1], frames);
    gain.fill(gains, frames);
    for (let i = 0; i < frames; i++) {
      passed[0][i] = passed[0][i]! + gains[i]! * beside[0][i]!;
      passed[1][i] = passed[1][i]! + gains[i]! * beside[1][i]!;
    }
  }

  /** Puts noise in the carrier's place where the voice hisses. */
  private hissInto(frames: number): void {
    const { sides, chain, noise, unvoiced, unvoicedGain, presenceRate, presences, offset } = this;
    const [l, r] = sides;
    for (let i = 0; i < frames; i++) {
      const power = (l[i]! * l[i]! + r[i]! * r[i]!) / 2;
      this.presence += settled(presenceRate * (power - this.presence));
      presences[i] = this.presence;
      const share = unvoiced.next() * chain.hissAt(offset + i);
      const gain = unvoicedGain.next();
      if (share <= 0) continue;
      const hiss = share * gain * NOISE_GAIN * Math.sqrt(this.presence) * noise.white();
      l[i] = (1 - share) * l[i]! + hiss;
      r[i] = (1 - share) * r[i]! + hiss;
    }
  }

  private addSibilance(start: number, frames: number): void {
    const { voice, spare, sibilant, sibilance, presences, wet } = this;
    for (let i = 0; i < frames; i++) spare[i] = voice[i]!;
    sibilant.process(spare, this.beside[0], frames);
    for (let i = 0; i < frames; i++) {
      const x = sibilance.next() * Math.min(1, presences[i]! / PRESENT) * spare[i]!;
      wet[0][start + i] = wet[0][start + i]! + x;
      wet[1][start + i] = wet[1][start + i]! + x;
    }
  }
}

export const createVocoder: KernelFactory = (context) => new VocoderKernel(context);
