import { parseMidi, writeMidi, type MidiEvent } from 'midi-file';
import { KinetikonError } from '../errors';

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
  /** What the file begins in; null where it does not say. */
  readonly tempoBpm: number | null;
  /** Those with notes. */
  readonly parts: readonly MidiPart[];
}

/** Ticks of a quarter note, and those for notes that these do not tell exactly: all usual divisions go into them. */
const TICKS = 960;
const FINE_TICKS = 15360;
const SUSTAIN = 64;

const refusal = (code: 'file.broken' | 'file.unsupported', why: string, cause?: unknown) =>
  new KinetikonError(code, `This MIDI file cannot be read: ${why}.`, {
    kept: 'Nothing was changed.',
    next: 'Standard MIDI files of format 0 and 1 are taken.',
    cause,
  });

/**
 * Reads a Standard MIDI File of format 0 or 1. Notes that the pedal holds last until it is let go.
 * @throws KinetikonError file.broken, file.unsupported, saying why
 */
export function readMidi(bytes: Uint8Array): MidiSong {
  let file;
  try {
    file = parseMidi(bytes);
  } catch (error) {
    throw refusal('file.broken', 'it is damaged, or none', error);
  }
  const { header, tracks } = file;
  if (header.format > 1) throw refusal('file.unsupported', `it is of format ${header.format}`);
  const { ticksPerBeat } = header;
  if (!ticksPerBeat) throw refusal('file.unsupported', 'it counts film frames, not beats');
  const parts =
    tracks.length === 1
      ? channelsOf(tracks[0]!).map(({ channel, events }) => ({ name: `Channel ${channel + 1}`, events }))
      : tracks.map((events, n) => ({ name: nameOf(events) ?? `Track ${n + 1}`, events }));
  const tempo = tracks.flat().find((event) => event.type === 'setTempo');
  return {
    tempoBpm: tempo ? Number((60000000 / tempo.microsecondsPerBeat).toFixed(3)) : null,
    parts: parts
      .map(({ name, events }) => ({ name, notes: notesOf(events, ticksPerBeat) }))
      .filter(({ notes }) => notes.length > 0),
  };
}

function nameOf(events: readonly MidiEvent[]): string | undefined {
  const named = events.find((event) => event.type === 'trackName');
  return named && (fromBytes(named.text).trim() || undefined);
}

/** Texts are bytes in a file, which mean UTF-8 where they can, else a letter each. */
const toBytes = (text: string) => String.fromCharCode(...new TextEncoder().encode(text));
function fromBytes(bytes: string): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(Uint8Array.from(bytes, (one) => one.charCodeAt(0)));
  } catch {
    return bytes;
  }
}

/** Events of each channel, at the times they have among all. */
function channelsOf(events: readonly MidiEvent[]): { channel: number; events: MidiEvent[] }[] {
  const channels = events.flatMap((event) => ('channel' in event ? [event.channel] : []));
  return [...new Set(channels)]
    .sort((a, b) => a - b)
    .map((channel) => {
      let waited = 0;
      const own: MidiEvent[] = [];
      for (const event of events) {
        waited += event.deltaTime;
        if ('channel' in event && event.channel !== channel) continue;
        own.push({ ...event, deltaTime: waited });
        waited = 0;
      }
      return { channel, events: own };
    });
}

interface Open {
  readonly start: number;
  readonly key: number;
  readonly velocity: number;
  /** Let go while the pedal was down. */
  held: boolean;
}

function notesOf(events: readonly MidiEvent[], ticksPerBeat: number): MidiNote[] {
  const notes: MidiNote[] = [];
  const open: Open[] = [];
  let tick = 0;
  let pedal = false;
  const end = (note: Open) => {
    open.splice(open.indexOf(note), 1);
    notes.push({
      startBeat: note.start / ticksPerBeat,
      lengthBeats: Math.max(1, tick - note.start) / ticksPerBeat,
      key: note.key,
      velocity: note.velocity,
    });
  };
  for (const event of events) {
    tick += event.deltaTime;
    if (event.type === 'noteOn' && event.velocity > 0) {
      const sounding = open.find(({ key, held }) => held && key === event.noteNumber);
      if (sounding) end(sounding);
      open.push({ start: tick, key: event.noteNumber, velocity: event.velocity, held: false });
    } else if (event.type === 'noteOff' || event.type === 'noteOn') {
      const note = open.find(({ key, held }) => !held && key === event.noteNumber);
      if (note && pedal) note.held = true;
      else if (note) end(note);
    } else if (event.type === 'controller' && event.controllerType === SUSTAIN) {
      pedal = event.value >= 64;
      if (!pedal) for (const note of open.filter(({ held }) => held)) end(note);
    }
  }
  for (const note of [...open]) end(note);
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
  // What ends goes before what begins, so that a repeated key is two notes.
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
