import { effectById } from '@/core/effects/registry';
import { stripOf, stripOfInsert } from '@/core/session/records/queries';
import type { Note } from '@/core/session/records/lanes';
import type { SessionDocument } from '@/core/session/records/document';
import type { EngineClient } from '@/runtime/client/engineClient';
import type { Editor } from './editor';
import type { Messages } from './messages';
import type { StudioState } from './state';
import type { Transport } from './transport';

/** A touch of a key is written as a note that can be seen and taken hold of. */
const SHORTEST_PLAYED_BEATS = 1 / 16;

/** The parts of the studio that keys use. */
interface Desk {
  readonly state: StudioState;
  readonly engine: Pick<EngineClient, 'happen' | 'wake' | 'playing' | 'outputSeconds'>;
  readonly transport: Pick<Transport, 'heardBeat' | 'keysPlayed'>;
  readonly editor: Pick<Editor, 'perform'>;
  readonly messages: Pick<Messages, 'report'>;
}

/** Effects that play the notes of a strip or an effect. */
export function playersOf(document: SessionDocument, ownerId: string): string[] {
  return Object.values(document.inserts).flatMap(({ id, effect, notesFrom }) => {
    if (!effectById(effect).playsNotes) return [];
    const plays = notesFrom ?? stripOfInsert(document, id)?.id;
    return plays === ownerId ? [id] : [];
  });
}

/** Whose notes are open: those that are edited, else those of the strip that is chosen. */
export function openNotes({ notesFor, stripId }: Pick<StudioState, 'notesFor' | 'stripId'>): string {
  return notesFor ?? stripId;
}

/** A key that is held, and what hears it. */
interface Held {
  readonly players: readonly string[];
  readonly ownerId: string;
  readonly velocity: number;
  /** Beat at which it was pressed while writing was armed; null otherwise. */
  readonly fromBeat: number | null;
}

/**
 * Keys played by hand, on the screen, on the computer's keyboard or by MIDI: heard at once through what plays the open notes,
 * and written to them while writing is armed and the session plays. What is heard is late by the output; what is written is
 * where it was heard to be played.
 */
export class KeyPlayer {
  private readonly held = new Map<number, Held>();
  private readonly listeners = new Set<() => void>();

  constructor(private readonly desk: Desk) {}

  /** Keys that are down, the lowest first. */
  get down(): readonly number[] {
    return [...this.held.keys()].sort((a, b) => a - b);
  }

  /** @returns ends it */
  onChange(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  private get beat(): number {
    const { engine, state } = this.desk;
    const late = (engine.outputSeconds * state.document.session.tempoBpm) / 60;
    return Math.max(0, this.desk.transport.heardBeat - late);
  }

  /** @param velocity 1 to 127 */
  press(key: number, velocity: number): void {
    if (this.held.has(key)) return;
    const { desk } = this;
    const { state, engine } = desk;
    const ownerId = openNotes(state);
    const players = playersOf(state.document, ownerId);
    const writes = state.armed && engine.playing && ownerId !== 'main';
    this.held.set(key, { players, ownerId, velocity, fromBeat: writes ? this.beat : null });
    desk.transport.keysPlayed(true);
    void engine.wake().catch((error: unknown) => desk.messages.report(error));
    for (const id of players) engine.happen(id, { kind: 'noteOn', key, velocity: velocity / 127, byHand: true });
    this.changed();
  }

  release(key: number): void {
    const held = this.held.get(key);
    if (!held) return;
    this.held.delete(key);
    const { engine } = this.desk;
    this.desk.transport.keysPlayed(this.held.size > 0);
    for (const id of held.players) engine.happen(id, { kind: 'noteOff', key, byHand: true });
    this.write(key, held);
    this.changed();
  }

  /** Lets everything go, as when the window loses the keyboard. */
  releaseAll(): void {
    for (const key of this.down) this.release(key);
  }

  private write(key: number, { ownerId, velocity, fromBeat }: Held): void {
    const { desk } = this;
    const { document } = desk.state;
    if (fromBeat === null || !(stripOf(document, ownerId) ?? document.inserts[ownerId])) return;
    const { loopOn, loopStartBeat, loopEndBeat } = document.session;
    let end = this.beat;
    // A note that is held while the loop begins anew ends with the loop.
    if (end <= fromBeat) end = loopOn ? loopEndBeat : fromBeat;
    if (desk.state.punch && loopOn && (fromBeat < loopStartBeat || fromBeat >= loopEndBeat)) return;
    const lengthBeats = Math.max(SHORTEST_PLAYED_BEATS, end - fromBeat);
    const note: Note = { id: crypto.randomUUID(), ownerId, startBeat: fromBeat, lengthBeats, key, velocity };
    desk.editor.perform({ type: 'note.add', notes: [note] }, 'Play a note');
  }

  private changed(): void {
    for (const listener of this.listeners) listener();
  }
}
