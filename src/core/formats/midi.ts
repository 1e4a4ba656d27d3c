import { writeMidi, type MidiEvent } from 'midi-file';
import { LONGEST_BEATS } from '../session/fields';
import { midiRefusal, readMidiEvents, type MidiFileEvent } from './midiEvents';

/** A note of a file; times in beats (quarter notes), key and velocity as MIDI numbers them. */
export interface MidiNote {
  readonly startBeat: number;
  readonly lengthBeats: number;
  readonly key: number;
  /** 1 to 127. */
  readonly velocity: number;
}

/** Notes that belong together: those of a track, or of a channel where there is one track only. */
export interface MidiPart {
  readonly name: string;
  readonly notes: readonly MidiNote[];
}

export interface MidiSong {
  /** Initial tempo; null if the file has none. */
  readonly tempoBpm: number | null;
  /** Those with notes. */
  readonly parts: readonly MidiPart[];
}

/** Ticks of a quarter note, and those for notes that these do not tell exactly: all usual divisions go into them. */
const TICKS = 960;
const FINE_TICKS = 15360;
/**
 * Reads a Standard MIDI File of format 0 or 1. Notes that the pedal holds last until it is let go.
 * @throws KinetikonError file.broken, file.unsupported, saying why
 */
export function readMidi(bytes: Uint8Array): MidiSong {
  const { format, ticksPerBeat, tracks } = readMidiEvents(bytes);
  if (format > 1) throw midiRefusal('file.unsupported', `it is of format ${format}`);
  const end = tracks.reduce((last, events) => Math.max(last, events.at(-1)?.tick ?? 0), 0);
  if (end > LONGEST_BEATS * ticksPerBeat) {
    throw midiRefusal('file.unsupported', `it lasts more than ${LONGEST_BEATS} beats`);
  }
  const parts =
    tracks.length === 1
      ? channelsOf(tracks[0]!).map(({ channel, events }) => ({ name: `Channel ${channel + 1}`, events }))
      : tracks.map((events, n) => ({ name: nameOf(events) ?? `Track ${n + 1}`, events }));
  return {
    tempoBpm: tempoOf(tracks),
    parts: parts
      .map(({ name, events }) => ({ name, notes: notesOf(events, ticksPerBeat) }))
      .filter(({ notes }) => notes.length > 0),
  };
}

function tempoOf(tracks: readonly (readonly MidiFileEvent[])[]): number | null {
  for (const events of tracks) {
    for (const event of events) {
      if (event.kind === 'tempo') return Number((60000000 / event.microsecondsPerBeat).toFixed(3));
    }
  }
  return null;
}

function nameOf(events: readonly MidiFileEvent[]): string | undefined {
  for (const event of events) if (event.kind === 'name') return fromBytes(event.text).trim() || undefined;
  return undefined;
}

/** Texts are bytes in a file, which mean UTF-8 where they can, else a letter each. */
const toBytes = (text: string) => String.fromCharCode(...new TextEncoder().encode(text));
function fromBytes(bytes: Uint8Array): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes).replaceAll('\0', '');
  } catch {
    return new TextDecoder('latin1').decode(bytes).replaceAll('\0', '');
  }
}

/** Events of each channel that has any, and of none, from the lowest channel up. */
function channelsOf(events: readonly MidiFileEvent[]): { channel: number; events: MidiFileEvent[] }[] {
  const channels = Array.from({ length: 16 }, (_, channel) => ({
    channel,
    events: [] as MidiFileEvent[],
    plays: false,
  }));
  for (const event of events) {
    if (!('channel' in event)) {
      for (const one of channels) one.events.push(event);
      continue;
    }
    const own = channels[event.channel]!;
    own.events.push(event);
    own.plays = true;
  }
  return channels.filter(({ plays }) => plays);
}

interface OpenNote {
  readonly tick: number;
  readonly key: number;
  readonly velocity: number;
}

class Queue<T> {
  private items: T[] = [];
  private first = 0;

  add(item: T): void {
    this.items.push(item);
  }

  take(): T | undefined {
    return this.first < this.items.length ? this.items[this.first++] : undefined;
  }

  takeAll(): T[] {
    const rest = this.items.slice(this.first);
    this.items = [];
    this.first = 0;
    return rest;
  }
}

/** The open notes of one key, oldest first: those whose key is down, and those that only the pedal holds. */
interface OpenKey {
  readonly down: Queue<OpenNote>;
  readonly held: Queue<OpenNote>;
}

function notesOf(events: readonly MidiFileEvent[], ticksPerBeat: number): MidiNote[] {
  const notes: MidiNote[] = [];
  const keys = Array.from({ length: 128 }, (): OpenKey => ({ down: new Queue(), held: new Queue() }));
  let isPedalDown = false;
  const end = (note: OpenNote | undefined, tick: number) => {
    if (!note) return;
    notes.push({
      startBeat: note.tick / ticksPerBeat,
      lengthBeats: Math.max(1, tick - note.tick) / ticksPerBeat,
      key: note.key,
      velocity: note.velocity,
    });
  };
  for (const event of events) {
    if (event.kind === 'noteOn') {
      end(keys[event.key]!.held.take(), event.tick);
      keys[event.key]!.down.add(event);
    } else if (event.kind === 'noteOff') {
      const note = keys[event.key]!.down.take();
      if (note && isPedalDown) keys[event.key]!.held.add(note);
      else end(note, event.tick);
    } else if (event.kind === 'pedal') {
      isPedalDown = event.isDown;
      if (!isPedalDown) for (const { held } of keys) for (const note of held.takeAll()) end(note, event.tick);
    }
  }
  const last = events.at(-1)?.tick ?? 0;
  for (const { down, held } of keys) for (const note of [...held.takeAll(), ...down.takeAll()]) end(note, last);
  return notes.sort((a, b) => a.startBeat - b.startBeat || a.key - b.key);
}

/** Writes parts as a Standard MIDI File of format 1, with the tempo and the metre in a track of their own. */
export function writeMidiFile(
  parts: readonly MidiPart[],
  timing: { readonly tempoBpm: number; readonly metreBeats: number; readonly metreUnit: number },
): Uint8Array<ArrayBuffer> {
  const exact = (beats: number) => Number.isInteger(beats * TICKS);
  const fine = parts.some(({ notes }) => notes.some((one) => !exact(one.startBeat) || !exact(one.lengthBeats)));
  const ticksPerBeat = fine ? FINE_TICKS : TICKS;
  const head: MidiEvent[] = [
    { deltaTime: 0, meta: true, type: 'setTempo', microsecondsPerBeat: Math.round(60000000 / timing.tempoBpm) },
    {
      deltaTime: 0,
      meta: true,
      type: 'timeSignature',
      numerator: timing.metreBeats,
      denominator: timing.metreUnit,
      metronome: 24,
      thirtyseconds: 8,
    },
    { deltaTime: 0, meta: true, type: 'endOfTrack' },
  ];
  const bytes = writeMidi({
    header: { format: 1, numTracks: parts.length + 1, ticksPerBeat },
    tracks: [head, ...parts.map((part) => trackOf(part, ticksPerBeat))],
  });
  return Uint8Array.from(bytes);
}

function trackOf({ name, notes }: MidiPart, ticksPerBeat: number): MidiEvent[] {
  const moments = notes.flatMap(({ startBeat, lengthBeats, key, velocity }) => {
    const start = Math.round(startBeat * ticksPerBeat);
    const end = Math.max(start + 1, Math.round((startBeat + lengthBeats) * ticksPerBeat));
    return [
      { tick: start, key, velocity },
      { tick: end, key, velocity: 0 },
    ];
  });
  // Note-offs come first, so that a repeated key is two notes.
  moments.sort((a, b) => a.tick - b.tick || Math.sign(a.velocity) - Math.sign(b.velocity) || a.key - b.key);
  let last = 0;
  const events = moments.map(({ tick, key, velocity }): MidiEvent => {
    const deltaTime = tick - last;
    last = tick;
    return velocity > 0
      ? { deltaTime, type: 'noteOn', channel: 0, noteNumber: key, velocity }
      : { deltaTime, type: 'noteOff', channel: 0, noteNumber: key, velocity: 0 };
  });
  return [
    { deltaTime: 0, meta: true, type: 'trackName', text: toBytes(name) },
    ...events,
    { deltaTime: 0, meta: true, type: 'endOfTrack' },
  ];
}
