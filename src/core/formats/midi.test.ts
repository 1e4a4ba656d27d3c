import { thinned } from '../../../test/support/sweep';
import fc from 'fast-check';
import { damaged } from '../../../test/support/damaged';
import { writeMidi, type MidiEvent } from 'midi-file';
import { readMidi, writeMidiFile, type MidiNote } from './midi';

/** A file whose second track ends within a note. */
const PAST_ITS_TRACK =
  'TVRoZAAAAAYAAQADA8BNVHJrAAAAEwD/UQMJJ8AA/1gEBAIYCAD/LwBNVHJrAAAA0AD/AwFhAJAoWoNggMcsojEwJ6bYxrkOR5PLbH7cwcH/HNiEdF1v8P///5ApWoNggCkAg2CQKlqDYIAqAINgkCtag2CAKwCDYJAsWoNggCwAg2CQLVqDYIAtAINgkC5ag2CALgCDYJAvWoNggC8Ag2CQMFqDYIAwAINgkDFag2CAMQCDYJAyWoNggDIAg2CQM1qDYIAzAINgkDRag2CANACDYJA1WoNggDUAg2CQNlqDYIA2AINgkDdag2CANwCDYJA4WoNggDgAg2CQOVqDYIA5AINgkDpag2CAOgCDYJA7WoNggDsAAP8vAE1UcmsAAAASAP8DAWIAkDwBh0CAPAAA/y8A';

const TIMING = { tempoBpm: 84, metreBeats: 3, metreUnit: 4 };
const bytesOf = (format: 0 | 1 | 2, tracks: MidiEvent[][], ticksPerBeat = 480) =>
  Uint8Array.from(writeMidi({ header: { format, numTracks: tracks.length, ticksPerBeat }, tracks }));
const on = (deltaTime: number, noteNumber: number, channel = 0, velocity = 100): MidiEvent => ({
  deltaTime,
  type: 'noteOn',
  noteNumber,
  channel,
  velocity,
});
const off = (deltaTime: number, noteNumber: number, channel = 0): MidiEvent => ({
  deltaTime,
  type: 'noteOff',
  noteNumber,
  channel,
  velocity: 0,
});
const end: MidiEvent = { deltaTime: 0, meta: true, type: 'endOfTrack' };

describe('MIDI files', () => {
  it('come back exactly as they were written, whatever division their times come from', () => {
    // Notes of a key one after another, on a grid of some usual division.
    const part = fc
      .tuple(
        fc.constantFrom(24, 96, 120, 192, 384, 480, 960, 3840),
        fc.array(
          fc.tuple(
            fc.integer({ min: 0, max: 127 }),
            fc.integer({ min: 0, max: 500 }),
            fc.integer({ min: 1, max: 900 }),
            fc.integer({ min: 1, max: 127 }),
          ),
          { minLength: 1, maxLength: 40 },
        ),
      )
      .map(([division, given]) => {
        const ends = new Map<number, number>();
        const notes = given.map(([key, wait, length, velocity]): MidiNote => {
          const start = (ends.get(key) ?? 0) + wait;
          ends.set(key, start + length);
          return { startBeat: start / division, lengthBeats: length / division, key, velocity };
        });
        return notes.sort((a, b) => a.startBeat - b.startBeat || a.key - b.key);
      });
    fc.assert(
      fc.property(fc.array(part, { minLength: 1, maxLength: 3 }), (all) => {
        const parts = all.map((notes, n) => ({ name: `Stimme ${n} ♪`, notes }));
        const song = readMidi(writeMidiFile(parts, TIMING));
        expect(song.tempoBpm).toBeCloseTo(84, 3);
        expect(song.parts).toEqual(parts);
        expect(writeMidiFile(song.parts, TIMING)).toEqual(writeMidiFile(parts, TIMING));
      }),
      { numRuns: thinned(40) },
    );
  });

  it('of format 0 have a part for each channel', () => {
    const song = readMidi(bytesOf(0, [[on(0, 60), on(240, 40, 9), off(240, 60), off(0, 40, 9), end]]));
    expect(song).toEqual({
      tempoBpm: null,
      parts: [
        { name: 'Channel 1', notes: [{ startBeat: 0, lengthBeats: 1, key: 60, velocity: 100 }] },
        { name: 'Channel 10', notes: [{ startBeat: 0.5, lengthBeats: 0.5, key: 40, velocity: 100 }] },
      ],
    });
  });

  it('end notes by a velocity of nothing, by the pedal, by the same key and by their end', () => {
    const pedal = (deltaTime: number, value: number): MidiEvent => ({
      deltaTime,
      type: 'controller',
      channel: 0,
      controllerType: 64,
      value,
    });
    const events = [
      on(0, 60),
      on(480, 60, 0, 0),
      pedal(0, 127),
      on(0, 62),
      off(240, 62),
      on(240, 62),
      off(120, 62),
      pedal(360, 0),
    ];
    const song = readMidi(bytesOf(1, [[...events, on(0, 70), { ...end, deltaTime: 480 }]]));
    expect(song.parts[0]!.notes.map(({ startBeat, lengthBeats, key }) => [startBeat, lengthBeats, key])).toEqual([
      [0, 1, 60],
      [1, 1, 62],
      [2, 1, 62],
      [3, 1, 70],
    ]);
  });

  it('are refused, and at once, when an event reaches past the end of its track', () => {
    expect(() => readMidi(Buffer.from(PAST_ITS_TRACK, 'base64'))).toThrow(/^This MIDI file cannot be read: track 2 /);
  });

  it('are read or refused in under a second each, whatever is damaged in them', () => {
    const whole = writeMidiFile(
      [1, 2].map((track) => ({
        name: `Part ${track}`,
        notes: Array.from({ length: 300 }, (_, n) => ({
          startBeat: n / 4,
          lengthBeats: 1,
          key: 30 + ((n * track) % 60),
          velocity: 1 + (n % 127),
        })),
      })),
      TIMING,
    );
    let slowest = 0;
    for (let seed = 1; seed <= 1200; seed++) {
      const bytes = damaged(whole, seed);
      const began = performance.now();
      try {
        for (const { notes } of readMidi(bytes).parts) {
          for (const { key, velocity, startBeat, lengthBeats } of notes) {
            const inside = key >= 0 && key <= 127 && velocity >= 1 && velocity <= 127 && lengthBeats > 0;
            if (!inside || !(startBeat + lengthBeats <= 100001)) throw new Error(`seed ${seed}: a note out of range`);
          }
        }
      } catch (error) {
        expect(error).toMatchObject({ code: expect.stringMatching(/^file\./) as string });
      }
      slowest = Math.max(slowest, performance.now() - began);
    }
    expect(slowest).toBeLessThan(1000);
  });

  it.each([
    ['a key', 1, 0x9f, 'a key of 159, beyond 127'],
    ['a velocity', 2, 0xc8, 'a velocity of 200, beyond 127'],
  ])('are refused for %s out of range', (_, offset, value, why) => {
    const bytes = bytesOf(1, [[on(0, 60), off(480, 60), end]]);
    bytes[bytes.indexOf(0x90) + offset] = value;
    expect(() => readMidi(bytes)).toThrow(why);
  });

  it('take time in proportion to their size, even with keys that are never let go', () => {
    const presses = Array.from({ length: 200000 }, (_, n) => on(n % 2, 60));
    const song = readMidi(bytesOf(0, [[...presses, ...presses.map(() => off(0, 60)), end]]));
    expect(song.parts[0]!.notes).toHaveLength(200000);
  });

  it('are refused with the reason', () => {
    expect(() => readMidi(bytesOf(2, [[end]]))).toThrow('it is of format 2');
    expect(() => readMidi(new Uint8Array([1, 2, 3]))).toThrow('cannot be read');
    const whole = bytesOf(1, [[on(0, 60), off(480, 60), end]]);
    for (let length = 0; length < whole.length; length++) {
      const read = () => readMidi(whole.slice(0, length));
      try {
        read();
      } catch (error) {
        expect(error).toMatchObject({ code: expect.stringMatching(/^file\./) as string });
      }
    }
    const film = Uint8Array.from(whole);
    film[12] = 0xe7;
    film[13] = 40;
    expect(() => readMidi(film)).toThrow('film frames');
  });
});
