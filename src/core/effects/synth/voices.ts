import type { Arena, Doubles } from '../../wasm/arena';
import type { KernelEvent } from '../kernel';
import { MOST_VOICES } from './mostVoices';
import type { Tone } from './tone';
import { Voice } from './voice';

const MOST_EVENTS = 128;
const MOST_HELD = 128;

/** Up to sixteen notes at a time, from what is played: the events of a block, each at its frame. */
export class Voices {
  private readonly voices: readonly Voice[];
  /** Events for later blocks, in order. */
  private readonly events: KernelEvent[] = [];
  private readonly offsets = new Int32Array(MOST_EVENTS);
  private waiting = 0;
  /** Keys that are held, in their order. */
  private readonly held: number[] = [];
  private begun = 0;
  private lastKey = NaN;

  constructor(
    memory: Arena,
    sampleRate: number,
    private readonly tone: Tone,
  ) {
    this.voices = Array.from({ length: MOST_VOICES }, (_, n) => new Voice(memory, sampleRate, n));
  }

  /** Voices that may sound; fewer give up the quietest. One alone goes from key to key. */
  most = MOST_VOICES;

  get silent(): boolean {
    return this.waiting === 0 && this.voices.every(({ silent }) => silent);
  }

  get holds(): boolean {
    return this.held.length > 0;
  }

  /** Writes the keys that sound now, as they are heard on their way, the oldest first; NaN behind them. */
  tellKeys(out: Float64Array, at: number, count: number): void {
    let n = 0;
    const { shift } = this.tone;
    for (const voice of this.voices) if (!voice.silent && n < count) out[at + n++] = voice.sounding + shift;
    while (n < count) out[at + n++] = NaN;
  }

  /** Takes up what is due `offset` frames into what is rendered next. */
  happens(event: KernelEvent, offset: number): void {
    const { events, offsets } = this;
    if (this.waiting === MOST_EVENTS) return;
    let place = this.waiting++;
    for (; place > 0 && offsets[place - 1]! > offset; place--) {
      events[place] = events[place - 1]!;
      offsets[place] = offsets[place - 1]!;
    }
    events[place] = event;
    offsets[place] = offset;
  }

  /** A block has gone by that was not asked for: what waits is due at the beginning of the next. */
  passBlock(): void {
    this.offsets.fill(0, 0, this.waiting);
  }

  silence(): void {
    for (const voice of this.voices) voice.silence();
    this.waiting = this.held.length = 0;
    this.lastKey = NaN;
  }

  /** Lets all keys go. */
  release(): void {
    this.held.length = 0;
    for (const voice of this.voices) if (voice.down) voice.release();
  }

  /** Adds what sounds to two blocks. */
  render(left: Doubles, right: Doubles, frames: number): void {
    const { events, offsets, voices, tone, waiting } = this;
    let done = 0;
    for (let start = 0; start < frames;) {
      while (done < waiting && offsets[done]! <= start) this.play(events[done++]!);
      const end = done < waiting ? Math.min(frames, offsets[done]!) : frames;
      for (const voice of voices) if (!voice.silent) voice.render(tone, left, right, start, end);
      start = end;
    }
    this.waiting -= done;
    for (let n = 0; n < this.waiting; n++) {
      events[n] = events[n + done]!;
      offsets[n] = offsets[n + done]! - frames;
    }
  }

  private play(event: KernelEvent): void {
    if (event.kind === 'noteOn') this.noteOn(event.key, event.velocity);
    else this.noteOff(event.key);
  }

  private noteOn(key: number, velocity: number): void {
    const { held, voices, tone } = this;
    this.letGo(key);
    if (held.length < MOST_HELD) held.push(key);
    const from = Number.isNaN(this.lastKey) ? key : this.lastKey;
    this.lastKey = key;
    const alone = this.most === 1 ? voices[0]! : null;
    if (alone?.down) alone.sound(tone, key);
    else (alone ?? this.voiceFor(key)).begin(tone, key, velocity, tone.glide > 0 ? from : key, ++this.begun);
  }

  private noteOff(key: number): void {
    this.letGo(key);
    const voice = this.voices.find((one) => one.down && one.key === key);
    if (!voice) return;
    const before = this.most === 1 ? this.held.at(-1) : undefined;
    if (before === undefined) voice.release();
    else {
      this.lastKey = before;
      voice.sound(this.tone, before);
    }
  }

  private letGo(key: number): void {
    const at = this.held.indexOf(key);
    if (at >= 0) this.held.splice(at, 1);
  }

  /** The voice of that key if it sounds, else one that is silent, else the quietest let go, else the oldest. */
  private voiceFor(key: number): Voice {
    const { voices } = this;
    let best = voices[0]!;
    for (let n = 0; n < this.most; n++) {
      const voice = voices[n]!;
      if (!voice.silent && voice.key === key) return voice;
      if (gives(voice, best)) best = voice;
    }
    return best;
  }
}

/** True if one voice is released before another. */
function gives(voice: Voice, other: Voice): boolean {
  if (voice.silent !== other.silent) return voice.silent;
  if (voice.down !== other.down) return !voice.down;
  return voice.down ? voice.age < other.age : voice.loudness < other.loudness;
}
