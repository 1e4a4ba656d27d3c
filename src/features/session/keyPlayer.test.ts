import { applyCommand, type Command } from '@/core/session/commands';
import { newDocument } from '@/core/session/records/factories';
import type { SessionDocument } from '@/core/session/records/document';
import { KeyPlayer, playersOf } from './keyPlayer';
import { readMessage } from './midiInput';

function desk(armed: boolean) {
  const commands: Command[] = [
    { type: 'session.set', values: { tempoBpm: 120 } },
    { type: 'track.add', id: 'lead', name: 'Lead' },
    { type: 'insert.add', stripId: 'lead', id: 'synth', effect: 'synth', index: 0 },
    { type: 'insert.add', stripId: 'lead', id: 'own', effect: 'synth', index: 1 },
    { type: 'insert.notes', id: 'own', from: 'own' },
  ];
  let document: SessionDocument = applyCommand(newDocument('Keys'), { type: 'all', commands }, '').document;
  const told: string[] = [];
  const now = { beat: 4, playing: true, held: [] as boolean[] };
  const player = new KeyPlayer({
    get state() {
      return { document, notesFor: null, stripId: 'lead', armed, punch: false } as never;
    },
    engine: {
      happen: (id, event) => void told.push(`${id} ${event.kind} ${event.key} ${String(event.byHand)}`),
      wake: () => Promise.resolve(),
      get playing() {
        return now.playing;
      },
      outputSeconds: 0.1,
    },
    transport: {
      get heardBeat() {
        return now.beat;
      },
      keysPlayed: (held) => void now.held.push(held),
    },
    editor: {
      perform: (command) => {
        document = applyCommand(document, command, '').document;
        return true;
      },
    },
    messages: { report: () => {} },
  });
  return { player, told, now, notes: () => Object.values(document.notes), document: () => document };
}

describe('keys played by hand', () => {
  it('are heard through what plays the open notes, and let go as they were taken', () => {
    const { player, told, now, document, notes } = desk(false);
    expect(playersOf(document(), 'lead')).toEqual(['synth']);
    player.press(60, 100);
    player.press(60, 100);
    player.press(64, 100);
    expect(player.down).toEqual([60, 64]);
    player.releaseAll();
    expect(told).toEqual([
      'synth noteOn 60 true',
      'synth noteOn 64 true',
      'synth noteOff 60 true',
      'synth noteOff 64 true',
    ]);
    expect(now.held).toEqual([true, true, true, false]);
    expect(notes()).toEqual([]);
  });

  it('are written where they were heard to be played, while writing is armed and the session plays', () => {
    const { player, now, notes } = desk(true);
    player.press(62, 90);
    now.beat = 5.5;
    player.release(62);
    // A tenth of a second of output are 0.2 beats.
    expect(notes()).toEqual([expect.objectContaining({ ownerId: 'lead', key: 62, velocity: 90, startBeat: 3.8 })]);
    expect(notes()[0]!.lengthBeats).toBeCloseTo(1.5, 9);
    now.playing = false;
    player.press(65, 90);
    player.release(65);
    expect(notes()).toHaveLength(1);
  });

  it('come by MIDI as notes and controllers', () => {
    expect(readMessage([0x91, 60, 100])).toEqual({ kind: 'noteOn', key: 60, velocity: 100 });
    expect(readMessage([0x90, 60, 0])).toEqual({ kind: 'noteOff', key: 60 });
    expect(readMessage([0x83, 60, 40])).toEqual({ kind: 'noteOff', key: 60 });
    expect(readMessage([0xb0, 7, 127])).toEqual({ kind: 'controller', controller: 7, part: 1 });
    expect(readMessage([0xf8])).toBeNull();
    expect(readMessage([])).toBeNull();
  });
});
