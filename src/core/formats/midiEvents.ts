import { KinetikonError } from '../errors';

/** Events of a Standard MIDI File that say something about notes; all others are checked and passed over. */
export type MidiFileEvent = { readonly tick: number } & (
  | { readonly kind: 'noteOn'; readonly channel: number; readonly key: number; readonly velocity: number }
  | { readonly kind: 'noteOff'; readonly channel: number; readonly key: number }
  | { readonly kind: 'pedal'; readonly channel: number; readonly isDown: boolean }
  | { readonly kind: 'tempo'; readonly microsecondsPerBeat: number }
  | { readonly kind: 'name'; readonly text: Uint8Array }
  | { readonly kind: 'end' }
);

export interface MidiFile {
  readonly format: number;
  readonly ticksPerBeat: number;
  /** Events of each track in order, ticks counted from its beginning. */
  readonly tracks: readonly (readonly MidiFileEvent[])[];
}

const HEADER = 0x4d546864; // MThd
const TRACK = 0x4d54726b; // MTrk
const HEADER_BYTES = 6;
const SUSTAIN = 64;
const META = { name: 0x03, end: 0x2f, tempo: 0x51 } as const;
/** Data bytes of channel messages by the upper half of their status, from 0x8 on. */
const DATA_BYTES = [2, 2, 2, 2, 1, 1, 2];

export const midiRefusal = (code: 'file.broken' | 'file.unsupported', why: string) =>
  new KinetikonError(code, `This MIDI file cannot be read: ${why}.`, {
    kept: 'Nothing was changed.',
    next: 'Standard MIDI files of format 0 and 1 are taken.',
  });
const broken = (why: string) => midiRefusal('file.broken', why);

/** Bytes from `at` up to `end`; reading past that end is an error of the file. */
class Bytes {
  constructor(
    private readonly bytes: Uint8Array,
    public at: number,
    readonly end: number,
    private readonly name: string,
  ) {}

  get done(): boolean {
    return this.at >= this.end;
  }

  next(): number {
    if (this.at >= this.end) throw broken(`${this.name} ends within an event`);
    return this.bytes[this.at++]!;
  }

  peek(): number {
    return this.done ? this.next() : this.bytes[this.at]!;
  }

  /** A byte of 0 to 127. */
  data(what: string): number {
    const value = this.next();
    if (value > 127) throw broken(`${this.name} has a ${what} of ${value}, beyond 127`);
    return value;
  }

  number(bytes: number): number {
    let value = 0;
    for (let n = 0; n < bytes; n++) value = value * 256 + this.next();
    return value;
  }

  /** A variable-length quantity of up to four bytes, 0 to 2^28 - 1. */
  quantity(): number {
    let value = 0;
    for (let n = 0; n < 4; n++) {
      const byte = this.next();
      value = value * 128 + (byte & 127);
      if (byte < 128) return value;
    }
    throw broken(`${this.name} has a number of more than four bytes`);
  }

  take(count: number): Uint8Array {
    if (count > this.end - this.at) throw broken(`${this.name} ends within an event`);
    this.at += count;
    return this.bytes.subarray(this.at - count, this.at);
  }
}

/**
 * Reads the structure of a Standard MIDI File (MMA RP-001) in one pass, linear in its size.
 * @throws KinetikonError file.broken, file.unsupported, saying why
 */
export function readMidiEvents(bytes: Uint8Array): MidiFile {
  const file = new Bytes(bytes, 0, bytes.length, 'the file');
  if (bytes.length < 8 + HEADER_BYTES || file.number(4) !== HEADER) throw broken('it is none');
  const length = file.number(4);
  if (length < HEADER_BYTES) throw broken('its header is too short');
  const format = file.number(2);
  const count = file.number(2);
  const division = file.number(2);
  file.take(length - HEADER_BYTES);
  if (format > 2) throw midiRefusal('file.unsupported', `it is of format ${format}`);
  if (division >= 0x8000) throw midiRefusal('file.unsupported', 'it counts film frames, not beats');
  if (division === 0) throw broken('it divides a beat into nothing');
  const tracks: MidiFileEvent[][] = [];
  while (tracks.length < count) {
    if (file.end - file.at < 8) throw broken(`it has ${tracks.length} of its ${count} tracks`);
    const kind = file.number(4);
    const size = file.number(4);
    if (size > file.end - file.at) throw broken(`it ends within track ${tracks.length + 1}`);
    const start = file.at;
    file.take(size);
    if (kind === TRACK) tracks.push(readTrack(new Bytes(bytes, start, start + size, `track ${tracks.length + 1}`)));
  }
  return { format, ticksPerBeat: division, tracks };
}

function readTrack(track: Bytes): MidiFileEvent[] {
  const events: MidiFileEvent[] = [];
  let tick = 0;
  /** Status of the last channel message, which the next one may leave out. */
  let running = 0;
  while (!track.done) {
    tick += track.quantity();
    const status = track.peek() >= 0x80 ? track.next() : running;
    if (status === 0) throw broken('an event has no kind');
    if (status < 0xf0) {
      running = status;
      const event = channelEvent(track, tick, status);
      if (event) events.push(event);
      continue;
    }
    running = 0;
    if (status === 0xff) {
      const event = metaEvent(tick, track.next(), track.take(track.quantity()));
      if (event) events.push(event);
      if (event?.kind === 'end') break;
    } else if (status === 0xf0 || status === 0xf7) track.take(track.quantity());
    else throw broken(`an event is of the kind ${status}, which no file has`);
  }
  return events;
}

function channelEvent(track: Bytes, tick: number, status: number): MidiFileEvent | undefined {
  const channel = status & 15;
  switch (status >> 4) {
    case 8: {
      const key = track.data('key');
      track.data('velocity');
      return { tick, kind: 'noteOff', channel, key };
    }
    case 9: {
      const key = track.data('key');
      const velocity = track.data('velocity');
      return velocity === 0
        ? { tick, kind: 'noteOff', channel, key }
        : { tick, kind: 'noteOn', channel, key, velocity };
    }
    case 11: {
      const controller = track.data('controller');
      const value = track.data('controller value');
      return controller === SUSTAIN ? { tick, kind: 'pedal', channel, isDown: value >= 64 } : undefined;
    }
    default:
      for (let n = 0; n < DATA_BYTES[(status >> 4) - 8]!; n++) track.data('value');
      return undefined;
  }
}

function metaEvent(tick: number, kind: number, data: Uint8Array): MidiFileEvent | undefined {
  switch (kind) {
    case META.name:
      return { tick, kind: 'name', text: data };
    case META.end:
      return { tick, kind: 'end' };
    case META.tempo: {
      const microsecondsPerBeat = data.length === 3 ? data[0]! * 65536 + data[1]! * 256 + data[2]! : 0;
      if (microsecondsPerBeat === 0) throw broken('its tempo is none');
      return { tick, kind: 'tempo', microsecondsPerBeat };
    }
    default:
      return undefined;
  }
}
