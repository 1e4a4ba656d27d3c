import type { StoreApi } from 'zustand/vanilla';
import type { PitchCourse } from '@/core/analysis/pitch';
import type { EngineState } from '@/runtime/client/engineClient';
import type { StoredSession } from '@/core/protocol/http';
import type { History } from '@/core/session/storedHistory';
import type { Word } from '@/core/swells/makeSwell';
import { EFFECTS } from '@/core/effects/registry';
import { MAIN_ID } from '@/core/session/records/strips';
import type { Note, Point } from '@/core/session/records/lanes';
import type { SessionDocument } from '@/core/session/records/document';
import type { Arrival } from './arrival';
import type { LocalBounce } from './bounceStore';
import type { Notification } from './notifications';
import type { DrawerName, View } from './views';

/** Snap of the timeline in beats; `bar` follows the metre, `edges` draws to edges of clips, marks and onsets, 0 is off. */
export type Snap = 'bar' | 'edges' | 1 | 0.5 | 0.25 | 0;

export type SaveState = 'saved' | 'waiting' | 'saving' | 'failing';

/** Row of a strip in the timeline, with its lanes below it; heights in pixels. */
export interface Row {
  readonly stripId: string;
  readonly height: number;
  /** With its lanes. */
  readonly whole: number;
  /** Lanes that it has, shown or not. */
  readonly lanes: number;
}

/** Rows of tracks: as tall as fits, or the same for all. */
export type RowSize = 'fit' | 'low' | 'tall';

/** Work that takes a while and can be given up. */
export interface Job {
  readonly id: string;
  readonly label: string;
  readonly done: number;
  readonly cancel: () => void;
}

/** Everything the interface shows. The document is saved and undone; the rest is not. */
export interface StudioState {
  readonly document: SessionDocument;
  readonly history: History;
  readonly saveState: SaveState;
  readonly engineState: EngineState;
  /** Names of the sounds that are played and not whole in the engine yet. */
  readonly missingSounds: readonly string[];
  /** How far the first of them is, where it has to be unrolled before it can be read: 0 to 1. */
  readonly unrolled: number;
  readonly peaks: Readonly<Record<string, Int8Array>>;
  readonly problems: readonly Notification[];
  readonly jobs: readonly Job[];
  /** Bounces of this browser, the newest first. */
  readonly bounces: readonly LocalBounce[];
  /** Freezing is done on the studio's machines. */
  readonly freezesOnMachines: boolean;
  /** Effects whose sounds are still being prepared: until then the dry sound is heard in their place. */
  readonly waitingInserts: readonly string[];
  /** Prints under way. */
  readonly printing: readonly string[];
  /** Swells that are being computed, by print: their wet sound, which runs backwards from the landing, and how far it is. */
  readonly growing: Readonly<Record<string, { left: Float32Array; right: Float32Array; done: number }>>;
  /** Prints that could not be made, each with the fingerprint of what it was to be made from. */
  readonly failedPrints: Readonly<Record<string, string>>;
  readonly view: View;
  readonly stripId: string;
  /** Strips that are chosen beside the one that is shown: what is set on one of them is set on all. */
  readonly besideIds: readonly string[];
  readonly insertId: string | null;
  /** Which item of its list is open, by effect, from 1; the first where it is not here. */
  readonly items: Readonly<Record<string, number>>;
  readonly clipIds: readonly string[];
  /** Onsets of notes and syllables by sound, in seconds, for sounds that have been analysed. */
  readonly onsets: Readonly<Record<string, readonly number[]>>;
  /** The pitch of the sounds that have been looked at. */
  readonly pitches: Readonly<Record<string, PitchCourse>>;
  /** Progress of pitch analyses by sound, in per cent. */
  readonly pitchSought: Readonly<Record<string, number>>;
  /** Tracks whose clips show their pitch. */
  readonly pitchShown: readonly string[];
  /** A word that has been chosen in a clip. */
  readonly word: (Word & { readonly clipId: string }) | null;
  /** Rows of the timeline from top to bottom, in pixels: the cast lines up with them. */
  readonly rows: readonly Row[];
  /** Pixels of the timeline in which rows are seen. */
  readonly rowsHeight: number;
  readonly rowSize: RowSize;
  /** Strips whose lanes stay open though they are not chosen. */
  readonly lanesOpen: readonly string[];
  /** Zoom of the timeline; 0 until it has been fitted to the window. */
  readonly pixelsPerBeat: number;
  /** The zoom at which everything was in sight; as long as it stays, everything is kept in sight. */
  readonly fittedAt: number;
  readonly snap: Snap;
  readonly bouncing: boolean;
  /** Files that are to come in and wait for an answer. */
  readonly arrival: Arrival | null;
  /** Moving a control while the session plays writes automation. */
  readonly armed: boolean;
  /** Writing keeps to the loop. */
  readonly punch: boolean;
  /** The lane whose points are being edited, and which of them are chosen. */
  readonly laneId: string | null;
  readonly pointIndices: readonly number[];
  /** Lanes that are chosen beside one; they count while that one is open. */
  readonly laneMates: { readonly of: string | null; readonly ids: readonly string[] };
  /** The lane that takes the focus as soon as it is drawn. */
  readonly arrivingLaneId: string | null;
  readonly laneTool: 'points' | 'draw';
  readonly pointClipboard: readonly Point[];
  /** Decibels by which compared settings are evened out, by what is compared. */
  readonly trims: Readonly<Record<string, number>>;
  /** The strip or effect whose notes are open under the timeline, and which of them are chosen. */
  readonly notesFor: string | null;
  readonly noteIds: readonly string[];
  readonly noteClipboard: readonly Note[];
  /** Notes that are drawn or moved keep to the session's key. */
  readonly snapKey: boolean;
  /** The keyboard on the screen is open. */
  readonly keyboard: boolean;
  /** The modulator that takes the next MIDI controller that moves. */
  readonly learning: string | null;
  /** The output is stopped when it passes +6 dBFS. */
  readonly guarded: boolean;
  /** A blind trial is under way: nothing may show which setting is heard. */
  readonly blind: boolean;
  /** The recipe that is open in its list, '' for none; null until one is chosen, which is the first. */
  readonly cooking: string | null;
  /** Help that is open: all keys, or the search of commands. */
  readonly help: 'keys' | 'find' | null;
  /** The drawer that is open beside the view. */
  readonly drawer: DrawerName | null;
  /** The strip that an effect is being dragged onto. */
  readonly dropStripId: string | null;
  /** The listening place in which the output is heard, by id. */
  readonly listening: string;
  /** The effect that its page is about. */
  readonly about: string;
  /** The modulator that is open in the list. */
  readonly modulatorId: string | null;
  /** The effect of which only the difference is heard that it makes. */
  readonly differenceId: string | null;
}

/** The state of an open session, to be followed and changed. */
export type StudioStore = StoreApi<StudioState>;

export function initialState(stored: StoredSession): StudioState {
  const stripId = stored.document.session.trackIds[0] ?? MAIN_ID;
  const strip = stored.document.tracks[stripId] ?? stored.document.main;
  return {
    document: stored.document,
    history: stored.history,
    saveState: 'saved',
    engineState: 'off',
    missingSounds: [],
    unrolled: 0,
    peaks: {},
    problems: [],
    jobs: [],
    bounces: [],
    freezesOnMachines: false,
    waitingInserts: [],
    printing: [],
    growing: {},
    failedPrints: {},
    view: 'timeline',
    stripId,
    besideIds: [],
    insertId: strip.insertIds[0] ?? null,
    items: {},
    clipIds: [],
    onsets: {},
    pitches: {},
    pitchSought: {},
    pitchShown: [],
    word: null,
    rows: [],
    rowsHeight: 0,
    rowSize: 'fit',
    lanesOpen: [],
    pixelsPerBeat: 0,
    fittedAt: 0,
    snap: 1,
    bouncing: false,
    arrival: null,
    armed: false,
    punch: false,
    laneId: null,
    pointIndices: [],
    laneMates: { of: null, ids: [] },
    arrivingLaneId: null,
    laneTool: 'points',
    pointClipboard: [],
    trims: {},
    notesFor: null,
    noteIds: [],
    noteClipboard: [],
    snapKey: true,
    keyboard: false,
    learning: null,
    guarded: true,
    blind: false,
    cooking: null,
    help: null,
    drawer: null,
    dropStripId: null,
    listening: 'plain',
    about: EFFECTS[0]!.id,
    modulatorId: null,
    differenceId: null,
  };
}
