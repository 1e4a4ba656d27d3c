import { BandBank, bandCentres, bandPlace, MOST_BANDS, SPACINGS, type BandLayout } from '../../dsp/bandBank';
import { FilterPair } from '../../dsp/filterPair';
import { Noise } from '../../dsp/noise';
import { Ramp } from '../../dsp/ramp';
import { dbToGain, exp, gainOrSilence, gainToDb, pow } from '../../math/elementary';
import { smoothstep } from '../../math/smoothstep';
import type { Doubles } from '../../wasm/arena';
import { wasm } from '../../wasm/module';
import {
  MAXIMUM_BLOCK,
  type Inputs,
  type Kernel,
  type KernelContext,
  type KernelEvent,
  type KernelFactory,
  type KeySound,
  type Music,
} from '../kernel';
import { GlidingValues } from '../glidingValues';
import { EqualPowerMix } from '../mixer';
import { ParameterKernel } from '../parameterKernel';
import { placesOf } from '../places';
import type { ResolvedSetting } from '../settings';
import { WAVES } from '../synth/tone';
import { MOST_VOICES } from '../synth/voices';
import { BuiltInCarrier, NOTE_SOURCES } from './builtInCarrier';
import { Cuts } from './cuts';
import { CUT_OFF_LOW, vocoderSpec } from './spec';
import { VoiceChain } from './voiceChain';

const P = placesOf(vocoderSpec, [
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

/** Those that the rates of the bands follow from. */
const RATED = [P.attack, P.release, P.freeze, P.freezeLow, P.freezeHigh];

/** Frames between two looks at what moves. */
const TICK = 64;
/** Formants take so many times as long as other parameters: they pass from band to band. */
const FORMANT_GLIDE = 4;
/** One division of the spectrum gives way to another in this time. */
const CHANGE_SECONDS = 0.06;
/**
 * A new bank works unheard for this part of that time, until its levels are there: it keeps those of the old one in the first
 * half of it, since a sound that begins at once is in all bands.
 */
const WARM_PART = 0.5;
const TWO_PI = 6.283185307179586;
/** A key of the built-in carrier, as a factor. */
const CARRIER_GAIN = 0.25;
/** What brings the product of bands of a voice and of a carrier at full scale back to the level of the voice. */
const PRODUCT_GAIN = 4;
/** Mean power under which a carrier is none, -70 dB, and how fast that is noticed. */
const PRESENT = 1e-7;
const PRESENCE_SECONDS = 0.05;
const SIBILANT_HZ = 5000;
/** Uniform noise of this gain is as strong as a sound of level 1. */
const NOISE_GAIN = Math.sqrt(3);
/** Levels shown are means over about this long. */
const SHOWN_SECONDS = 0.08;
/** One tick in so many is measured for that. */
const MEASURED = 4;
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
  private readonly loops = wasm().loops;
  private readonly carrier: BuiltInCarrier;
  private readonly chain: VoiceChain;
  private readonly noise = new Noise(77);
  private readonly gliding = new GlidingValues(GLIDING);
  /** The bank at work, and the one that is going or waits. */
  private bank: BandBank;
  private other: BandBank;
  private layout: BandLayout;
  private centres: readonly number[] = [];
  private wanted: BandLayout;
  /** How far the bank at work has taken over. */
  private readonly change = new Ramp(1);
  private readonly changeFrames: number;
  private readonly mix: EqualPowerMix;
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
  /** What dulls the built-in carrier. */
  private readonly dull: Cuts;
  private readonly sibilant: FilterPair;
  private readonly voice: Doubles;
  private readonly spare: Doubles;
  private readonly sides: readonly [Doubles, Doubles];
  private readonly passed: readonly [Doubles, Doubles];
  private readonly wet: readonly [Doubles, Doubles];
  private readonly beside: readonly [Doubles, Doubles];
  private readonly made: readonly [Doubles, Doubles];
  private readonly going: readonly [Doubles, Doubles];
  private readonly gains = new Float64Array(MAXIMUM_BLOCK);
  private readonly levels: Doubles;
  private presence = 0;
  /** The same frame by frame. */
  private readonly presences = new Float64Array(MAXIMUM_BLOCK);
  private readonly presenceRate: number;
  private offset = TICK;
  private shifts = false;
  /** What is worked on up to the next look. */
  private readonly heard = { own: true, voice: false, carrier: false, sibilance: false };
  private ticks = 0;
  /** What the rates of the bands are worked out for. */
  private readonly ratesFor = RATED.map(() => NaN);
  private begins = false;
  /** Mean powers of the bands of the carrier and of what comes out. */
  private readonly carrierPowers = new Float64Array(MOST_BANDS);
  private readonly outPowers = new Float64Array(MOST_BANDS);
  private readonly shownRate: number;

  constructor(context: KernelContext) {
    super(context);
    const { memory, sampleRate, music, settings } = context;
    const block = () => memory.doubles(MAXIMUM_BLOCK);
    this.carrier = new BuiltInCarrier(memory, sampleRate, music);
    this.chain = new VoiceChain(memory, sampleRate);
    this.bank = new BandBank(memory, sampleRate);
    this.other = new BandBank(memory, sampleRate);
    this.layout = this.wanted = this.layoutSet();
    this.changeFrames = Math.round(CHANGE_SECONDS * sampleRate);
    this.mix = new EqualPowerMix(this.v[P.mix]!);
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
    this.made = [block(), block()];
    this.going = [block(), block()];
    this.presenceRate = 1 - exp(-1 / (PRESENCE_SECONDS * sampleRate));
    this.shownRate = 1 - exp((-MEASURED * TICK) / (SHOWN_SECONDS * sampleRate));
    if (settings.notes) this.set('notes', settings.notes);
    this.reset();
  }

  /** It holds a mouth, and so sound, for as long as bands are frozen. */
  get rests(): boolean {
    return this.v[P.freeze] === 0;
  }

  tailSeconds(): number {
    if (!this.rests) return Infinity;
    // Levels fall by the base of logarithms in a release.
    return (11 * this.v[P.release]!) / 1000 + RINGS_SECONDS / Math.min(1, this.v[P.bandwidth]!);
  }

  set(id: string, setting: ResolvedSetting): void {
    if (id === 'notes' && setting.kind === 'notes') this.carrier.setChord(setting.keys);
  }

  override beginRest(): void {
    super.beginRest();
    this.carrier.rest();
  }

  follow(music: Music): void {
    this.carrier.follow(music);
  }

  happens(event: KernelEvent, offset: number): void {
    this.carrier.happens(event, offset);
  }

  locate(): void {}

  reset(): void {
    this.aim(0);
    this.change.moveTo(1, 0);
    this.divide(this.bank);
    this.carrier.reset();
    this.chain.reset();
    this.sibilant.reset();
    this.voiceCuts.reset();
    this.carrierCuts.reset();
    this.dull.reset();
    this.presence = 0;
    this.carrierPowers.fill(0);
    this.outPowers.fill(0);
    this.offset = TICK;
    this.ticks = 0;
  }

  tell(out: Float64Array): void {
    const { bank, layout, carrierPowers, outPowers } = this;
    for (let band = 0; band < MOST_BANDS; band++) {
      const there = band < layout.bands;
      out[band] = there ? levelDb(bank.levelOf(band)) : SILENT_DB;
      out[MOST_BANDS + band] = there ? levelDb(Math.sqrt(carrierPowers[band]!)) : SILENT_DB;
      out[2 * MOST_BANDS + band] = there ? levelDb(this.outGain * Math.sqrt(outPowers[band]!)) : SILENT_DB;
    }
    this.carrier.tellKeys(out, 3 * MOST_BANDS, MOST_VOICES);
    out[3 * MOST_BANDS + MOST_VOICES] = levelDb(Math.sqrt(this.chain.power));
  }

  private get outGain(): number {
    return this.bank.gain * this.level.value;
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

  /** Lets a bank begin anew with the division that is wanted. */
  private divide(bank: BandBank): void {
    this.layout = this.wanted;
    this.centres = bandCentres(this.layout);
    bank.divide(this.layout);
    bank.gain = PRODUCT_GAIN * Math.sqrt(bank.bands);
    bank.measures = false;
    this.ratesFor.fill(NaN);
    this.tuneRates(bank);
    this.aimPlaces(bank, 0);
  }

  private tuneRates(bank: BandBank): void {
    const { v, centres, sampleRate } = this;
    const begins = this.change.value < -WARM_PART / 2;
    if (begins === this.begins && RATED.every((index, n) => v[index] === this.ratesFor[n])) return;
    this.begins = begins;
    RATED.forEach((index, n) => {
      this.ratesFor[n] = v[index]!;
    });
    // A level never goes faster than its band swings.
    const rate = (ms: number, hz: number) => 1 - exp(-1 / (Math.max(ms / 1000, 0.25 / hz) * sampleRate));
    centres.forEach((hz, band) => {
      const frozen = v[P.freeze] === 1 && hz >= v[P.freezeLow]! && hz <= v[P.freezeHigh]!;
      const holds = frozen || begins;
      bank.setRates(band, holds ? 0 : rate(v[P.attack]!, hz), holds ? 0 : rate(v[P.release]!, hz));
    });
  }

  private aimPlaces(bank: BandBank, frames: number): void {
    const ratio = pow(2, -this.formants.value / 12);
    this.centres.forEach((hz, band) => {
      const away = bandPlace(this.layout, hz * ratio) - bandPlace(this.layout, hz);
      bank.aimPlace(band, band + away, TICK, frames);
    });
  }

  private tick(): void {
    const { v, gliding, bank } = this;
    const shiftBefore = this.formants.value;
    gliding.skip(TICK);
    this.tuneCarrier();
    this.showPowers(bank);
    if (this.change.settled && !sameLayout(this.wanted, this.layout)) {
      const before = this.layout;
      this.bank = this.other;
      this.other = bank;
      this.change.moveTo(-WARM_PART, 0);
      this.change.moveTo(1, this.changeFrames);
      this.divide(this.bank);
      // A mouth that is held is the same one, however it is divided.
      this.centres.forEach((hz, band) => this.bank.setLevel(band, bank.levelAt(bandPlace(before, hz))));
    }
    this.tuneRates(this.bank);
    const shift = this.formants.skip(TICK);
    this.shifts = shift !== 0 || shiftBefore !== 0;
    if (this.shifts) this.aimPlaces(this.bank, TICK);
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

  /** Takes up what has been measured in the last tick, and says whether the next is measured: one in a few tells enough. */
  private showPowers(bank: BandBank): void {
    const { carrierPowers, outPowers, shownRate } = this;
    if (bank.measures) {
      for (let band = 0; band < bank.bands; band++) {
        // Both sides are summed up.
        carrierPowers[band]! += shownRate * (bank.powerBefore(band) / (2 * TICK) - carrierPowers[band]!);
        outPowers[band]! += shownRate * (bank.powerAfter(band) / (2 * TICK) - outPowers[band]!);
      }
      bank.clearPowers();
    }
    this.ticks = (this.ticks + 1) % MEASURED;
    bank.measures = this.ticks === 0;
  }

  process(left: Float32Array, right: Float32Array, frames: number, inputs?: Inputs): void {
    for (let start = 0; start < frames;) {
      if (this.offset === TICK) this.tick();
      const count = Math.min(frames - start, TICK - this.offset);
      this.piece(left, right, start, count, inputs?.[0] ?? null);
      this.offset += count;
      start += count;
    }
    this.mix.blend(left, this.wet[0], right, this.wet[1], frames);
  }

  private piece(left: Float32Array, right: Float32Array, start: number, frames: number, key: KeySound | null): void {
    const { voice, spare, chain, carrier, bank, other } = this;
    for (let i = 0; i < frames; i++) voice[i] = (left[start + i]! + right[start + i]!) / 2;
    chain.process(voice, spare, frames);
    carrier.hear(voice, frames);
    this.fillCarrier(key ? key.left : left, key ? key.right : right, start, frames);
    this.keepPassed(left, right, start, frames);
    this.hissInto(frames);
    const changing = !this.change.settled;
    this.change.fill(this.gains, frames);
    this.level.fill(this.levels, frames);
    const settles = this.offset + frames === TICK;
    bank.follow(voice, frames, settles);
    if (this.shifts) bank.shift(this.offset, frames);
    if (changing) other.follow(voice, frames, settles);
    const [made, going] = [this.made, this.going];
    bank.weigh(this.sides[0], this.sides[1], made[0], made[1], this.shifts, frames, settles);
    if (changing) other.weigh(this.sides[0], this.sides[1], going[0], going[1], false, frames, settles);
    this.sumUp(0, start, frames, changing);
    this.sumUp(1, start, frames, changing);
    if (this.heard.sibilance) this.addSibilance(start, frames);
  }

  private fillCarrier(keyLeft: Float32Array, keyRight: Float32Array, start: number, frames: number): void {
    const { sides, track, carrier, gains } = this;
    const [l, r] = sides;
    l.fill(0, 0, frames);
    r.fill(0, 0, frames);
    track.fill(gains, frames);
    if (this.heard.own) {
      carrier.render(l, r, frames);
      this.dull.process(l, r, frames);
    }
    for (let i = 0; i < frames; i++) {
      const share = gains[i]!;
      l[i] = CARRIER_GAIN * (1 - share) * l[i]! + share * keyLeft[start + i]!;
      r[i] = CARRIER_GAIN * (1 - share) * r[i]! + share * keyRight[start + i]!;
    }
  }

  /** What passes beside the bands: the voice as it comes and the carrier, each between its cuts. */
  private keepPassed(left: Float32Array, right: Float32Array, start: number, frames: number): void {
    const { passed, beside, sides, voiceGain, carrierGain } = this;
    for (const side of [0, 1] as const) passed[side].fill(0, 0, frames);
    if (this.heard.voice) {
      for (let i = 0; i < frames; i++) {
        beside[0][i] = left[start + i]!;
        beside[1][i] = right[start + i]!;
      }
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
      this.presence += presenceRate * (power - this.presence) + 1e-20 - 1e-20;
      presences[i] = this.presence;
      const share = unvoiced.next() * chain.hissAt(offset + i);
      const gain = unvoicedGain.next();
      if (share <= 0) continue;
      const hiss = share * gain * NOISE_GAIN * Math.sqrt(this.presence) * noise.white();
      l[i] = (1 - share) * l[i]! + hiss;
      r[i] = (1 - share) * r[i]! + hiss;
    }
  }

  private sumUp(side: 0 | 1, start: number, frames: number, changing: boolean): void {
    const { loops, gains, passed, wet, levels } = this;
    const [now, gone, out] = [this.made[side], this.going[side], wet[side]];
    if (changing) {
      for (let i = 0; i < frames; i++) {
        const here = smoothstep(Math.max(0, gains[i]!));
        now[i] = here * now[i]! + (1 - here) * gone[i]!;
      }
    }
    const at = out.byteOffset + 8 * start;
    loops.mixScaled(at, now.byteOffset, 0, levels.byteOffset, passed[side].byteOffset, 1, frames);
  }

  private addSibilance(start: number, frames: number): void {
    const { voice, spare, sibilant, sibilance, presences, wet } = this;
    for (let i = 0; i < frames; i++) spare[i] = voice[i]!;
    sibilant.process(spare, this.going[0], frames);
    for (let i = 0; i < frames; i++) {
      const x = sibilance.next() * Math.min(1, presences[i]! / PRESENT) * spare[i]!;
      wet[0][start + i] = wet[0][start + i]! + x;
      wet[1][start + i] = wet[1][start + i]! + x;
    }
  }
}

function sameLayout(a: BandLayout, b: BandLayout): boolean {
  return (Object.keys(a) as (keyof BandLayout)[]).every((one) => a[one] === b[one]);
}

export const createVocoder: KernelFactory = (context) => new VocoderKernel(context);
