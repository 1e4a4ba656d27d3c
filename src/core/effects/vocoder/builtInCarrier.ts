import { PitchTracker } from '../../dsp/pitchTracker';
import { keyOfHz } from '../../math/keys';
import type { Arena, Doubles } from '../../wasm/arena';
import type { KernelEvent, MusicalContext } from '../kernel';
import { nearestInScale } from '../scaleKeys';
import type { Tone } from '../synth/tone';
import { MOST_VOICES } from '../synth/mostVoices';
import { Voices } from '../synth/voices';

export const NOTE_SOURCES = ['chord', 'lane', 'midi', 'follow'] as const;
export type NoteSource = (typeof NOTE_SOURCES)[number];

const LOWEST_HZ = 65;
const HIGHEST_HZ = 800;
/** Hysteresis of a followed key, in semitones. */
const STAY = 0.3;

/** The vocoder's own instrument, and where its notes come from. */
export class BuiltInCarrier {
  readonly tone: Tone = {
    wave: 'saw',
    pulseWidth: 0.15,
    unison: 1,
    detuneCents: 0,
    spread: 0,
    fmRatio: 1,
    fmDepth: 0,
    noise: 0,
    shift: 0,
    vibratoCents: 0,
    vibratoHz: 5,
    glide: 0,
    filter: 'off',
    cutoffHz: 20000,
    resonance: Math.SQRT1_2,
    tracking: 0,
    filterDepth: 0,
    filterEnvelope: { attack: 0.01, decay: 1, sustain: 1, release: 0.1 },
    envelope: { attack: 0.008, decay: 0.1, sustain: 1, release: 0.08 },
  };
  private readonly voices: Voices;
  private readonly tracker: PitchTracker;
  private source: NoteSource = 'chord';
  private chord: readonly number[] = [];
  /** Keys that are down for the chord, or for what is followed. */
  private down: readonly number[] = [];

  constructor(
    memory: Arena,
    sampleRate: number,
    private music: MusicalContext,
  ) {
    this.voices = new Voices(memory, sampleRate, this.tone);
    this.tracker = new PitchTracker(memory, sampleRate, LOWEST_HZ);
    this.tracker.limit(LOWEST_HZ, HIGHEST_HZ);
  }

  get silent(): boolean {
    return this.voices.silent;
  }

  reset(): void {
    this.voices.silence();
    this.tracker.reset();
    this.down = [];
    this.hold(this.source === 'chord' ? this.chord : []);
  }

  /** Nobody speaks: notes of a lane are told anew afterwards. */
  rest(): void {
    if (this.source === 'lane') this.voices.silence();
  }

  setChord(keys: readonly number[]): void {
    this.chord = keys;
    if (this.source === 'chord') this.hold(keys);
  }

  setSource(source: NoteSource): void {
    if (source === this.source) return;
    this.source = source;
    this.voices.release();
    this.down = [];
    this.voices.most = source === 'follow' ? 1 : MOST_VOICES;
    if (source === 'chord') this.hold(this.chord);
  }

  follow(music: MusicalContext): void {
    this.music = music;
  }

  happens(event: KernelEvent, offset: number): void {
    const { source } = this;
    if (source === 'lane' || (source === 'midi' && event.byHand)) this.voices.happens(event, offset);
  }

  tellKeys(out: Float64Array, at: number, count: number): void {
    this.voices.tellKeys(out, at, count);
  }

  /** Hears the voice whose pitch it may follow. */
  hear(voice: Doubles, frames: number): void {
    if (this.source !== 'follow') return;
    const { tracker } = this;
    for (let at = 0; at < frames;) {
      const { looked } = tracker;
      at += tracker.take(voice, at, frames);
      if (tracker.looked === looked || !tracker.voiced) continue;
      const pitch = keyOfHz(tracker.hz);
      const nearest = nearestInScale(pitch, this.music.scale);
      const now = this.down[0];
      if (now === undefined || Math.abs(pitch - now) > Math.abs(pitch - nearest) + STAY) this.hold([nearest], at - 1);
    }
  }

  /** Lets these keys sound and no others, from a frame of the next block on. */
  private hold(keys: readonly number[], offset = 0): void {
    const { down, voices } = this;
    for (const key of keys) if (!down.includes(key)) voices.happens({ kind: 'noteOn', key, velocity: 1 }, offset);
    for (const key of down) if (!keys.includes(key)) voices.happens({ kind: 'noteOff', key }, offset);
    this.down = keys;
  }

  /** A block goes by in which it is not heard. */
  passBlock(): void {
    this.voices.passBlock();
  }

  /** Adds its sound to two blocks. */
  render(left: Doubles, right: Doubles, frames: number): void {
    if (!this.voices.silent) this.voices.render(left, right, frames);
  }
}
