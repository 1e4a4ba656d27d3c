import { createStore, type StoreApi } from 'zustand/vanilla';
import { effectById } from '@/core/effects/registry';
import type { Parameter, ParameterValue } from '@/core/effects/spec';
import { KinetikonError } from '@/core/errors';
import { LISTENING_PLACES } from '@/core/listening/catalogue';
import type { Plan, PlanInsert, Samples } from '@/core/engine/plan';
import type { JobResults, SharedSamples } from '@/core/jobs/kinds';
import { applyCommand, type Command, type Step } from '@/core/session/commands';
import { Compiler } from '@/core/session/compile/compiler';
import { framesPerBeat } from '@/core/session/compile/context';
import { setValueOf, stripIdOfOwner } from '@/core/session/lanes';
import { redo, remember, undo } from '@/core/session/history';
import { NAME_LENGTH } from '@/core/session/fields';
import { cutText } from '@/core/text';
import { DraftKeeper } from './draftKeeper';
import type { Drafts } from './drafts';
import type { Opening } from './recovery';
import { soundOf } from '@/core/session/prints';
import { MAIN_ID } from '@/core/session/records/strips';
import { newClip } from '@/core/session/records/factories';
import { stripOf, stripOfInsert } from '@/core/session/records/queries';
import type { Asset, Clip } from '@/core/session/records/clips';
import type { SessionDocument } from '@/core/session/records/document';
import { createSession, fetchAsset, fetchPeaks, saveSession, uploadAsset } from '@/runtime/client/api';
import { EngineClient } from '@/runtime/client/engineClient';
import { takeDecoders } from '@/runtime/client/decoders';
import { WorkerClient } from '@/runtime/client/workerClient';
import { errorNotification } from './notifications';
import { Saver, type SessionStore } from './saver';
import { KeyPlayer } from './keyPlayer';
import { PrintQueue } from './printQueue';
import { ResourceLoader } from './resourceLoader';
import { SharedTasks } from './sharedTasks';
import { SoundAnalyses } from './soundAnalyses';
import { FIRST_SOUNDS, idlestOf, SoundLoader, soundsToLoad } from './soundLoader';
import { addPoint, overrideCommand, takeCommand, type Take, type Turn } from './automationRecording';
import { initialState, type StudioState } from './state';

const SAVE_AFTER_MS = 500;
const KEPT_PICTURES = 24;
const GUARD_KEY = 'kinetikon.guard';

/** Room on the server's disk under which it is said. */
const LITTLE_ROOM_BYTES = 500 * 1024 * 1024;

/** What messages are about. */
const TOPIC = {
  saving: 'saving',
  engine: 'engine',
  room: 'room',
  change: 'change',
  sound: (assetId: string) => `sound ${assetId}`,
  file: (name: string) => `file ${name}`,
} as const;

export const newId = () => crypto.randomUUID();

/** Makes a session of what is here, once for each id. */
export const storeSession: SessionStore['create'] = (id, name, document, history) =>
  createSession(name, { id, document, history });

const soundMissing = (name: string) =>
  new KinetikonError('asset.missing', `${name} could not be loaded.`, {
    kept: 'Nothing was changed.',
    next: 'Try again, or remove its clips.',
  });

interface Gesture {
  base: SessionDocument;
  step: Step | null;
}

/**
 * An open session: its document and what is selected, the engine that sounds it, the worker that helps, and saving.
 * Every change goes through `perform` or, while something is dragged, `preview` and `settle`.
 */
export class Studio {
  readonly store: StoreApi<StudioState>;
  readonly engine: EngineClient;
  /** For pictures and looks at sounds, which are short. */
  readonly worker = new WorkerClient();
  /** For bounces and prints, which are long: pictures do not wait for them. */
  readonly renderer = new WorkerClient();
  readonly prints = new PrintQueue(this);
  readonly keys = new KeyPlayer(this);
  private readonly resources: ResourceLoader;
  /** Pictures of effects that were drawn lately. */
  readonly pictures = new SharedTasks<JobResults['echogram' | 'picture' | 'room']>(KEPT_PICTURES);
  /** For sounds, which come in several at a time. */
  private readonly decoders = takeDecoders();
  private gesture: Gesture | null = null;
  /** What is being written, one for each control that is moved. */
  private takes: Take[] = [];
  private readonly compiler = new Compiler();
  private stopWaiting: () => void = () => {};
  private readonly saver: Saver;
  private readonly drafts: DraftKeeper | null;
  private readonly opening: Pick<Opening, 'unsaved' | 'notes'>;
  private readonly loader: SoundLoader;
  /** Sounds whose peaks have been asked for. */
  private readonly drawn = new Set<string>();
  private readonly looks: SoundAnalyses;
  private readonly soundsById = new Map<string, Samples>();

  /** @param drafts where unsaved work is kept; null where there is no such place */
  constructor(
    opening: Opening,
    private readonly onMoved: (sessionId: string) => void,
    drafts: Drafts | null,
  ) {
    const { stored, unsaved, draftKey, notes } = opening;
    this.opening = { unsaved, notes };
    this.store = createStore(() => initialState(stored));
    this.drafts =
      drafts &&
      new DraftKeeper(
        drafts,
        draftKey ?? drafts.keyOf(stored.id),
        draftKey !== null,
        () => this.saver.unsaved,
        (error) => this.report(error),
      );
    const store: SessionStore = { save: saveSession, create: storeSession };
    this.saver = new Saver(
      stored,
      store,
      {
        // What is being dragged is saved once it is let go.
        newest: () => ({ document: this.gesture?.base ?? this.state.document, history: this.state.history }),
        onState: (saveState) => {
          this.set({ saveState });
          if (saveState === 'saved') {
            this.settled(TOPIC.saving);
            this.drafts?.saved();
          }
        },
        onProblem: (error) => this.report(error, TOPIC.saving),
        onRoom: (freeBytes) => this.watchRoom(freeBytes),
        onCopied: (copyId, name) => this.goOnAs(copyId, name),
      },
      newId,
    );
    this.loader = new SoundLoader(this.decoders, {
      fetchBytes: fetchAsset,
      onSound: (assetId, sound) => {
        this.adoptSound(assetId, sound);
        this.settled(TOPIC.sound(assetId));
      },
      onWaiting: (waiting) => {
        const names = waiting.map(({ name }) => name);
        if (names.join('\n') !== this.state.missingSounds.join('\n')) this.set({ missingSounds: names });
      },
      onProblem: (error, assetId) => {
        this.soundsById.delete(assetId);
        this.report(error, TOPIC.sound(assetId));
      },
    });
    this.engine = new EngineClient({
      onState: (engineState) => {
        this.set({ engineState });
        if (engineState === 'running') this.settled(TOPIC.engine);
      },
      onProblem: (error) => this.report(error, TOPIC.engine),
      onFault: ({ stripId, insertId, message }) => this.report(this.faultOf(stripId, insertId, message), TOPIC.engine),
    });
    this.resources = new ResourceLoader({
      engine: this.engine,
      worker: this.renderer,
      sampleRateHz: () => this.state.document.session.sampleRateHz,
      soundOf: (assetId) => this.soundsById.get(assetId),
      onWaiting: (waiting) => {
        if (waiting.join() !== this.state.waitingInserts.join()) this.set({ waitingInserts: waiting });
      },
      onProblem: (error) => this.report(error),
    });
    this.looks = new SoundAnalyses({
      store: this.store,
      worker: this.worker,
      samplesOf: (assetIds, signal) => this.samplesOf(assetIds, signal),
      report: (error, assetId) => this.report(error, TOPIC.sound(assetId)),
    });
  }

  get state(): StudioState {
    return this.store.getState();
  }

  set(part: Partial<StudioState>): void {
    this.store.setState(part);
  }

  /** Brings the sounds in and the engine up. */
  async open(): Promise<void> {
    if (localStorage.getItem(GUARD_KEY) === 'off') this.setGuard(false);
    const { unsaved, notes } = this.opening;
    if (unsaved) this.adopt(unsaved.document, unsaved.history);
    for (const note of notes) this.report(note);
    this.engine.setPlan(this.plan(this.state.document));
    this.loadSounds();
    this.prints.look();
    void this.firstSounds(new AbortController().signal).then(() => this.resources.look());
    await this.engine.prepare().catch((error: unknown) => this.report(error, TOPIC.engine));
    this.stopWaiting = this.store.subscribe(() => this.warmUp());
    this.warmUp();
  }

  /** Once the sounds are there the engine gets ready to play them. */
  private warmUp(): void {
    if (this.state.missingSounds.length > 0) return;
    this.stopWaiting();
    void this.engine.warmUp();
  }

  close(): void {
    this.stopWaiting();
    this.saver.close();
    void this.engine.dispose();
    for (const worker of [this.worker, this.renderer, ...this.decoders]) worker.close();
  }

  /** The page may be closed: what is unsaved is kept in the browser. */
  keepUnsaved(): void {
    this.drafts?.keep();
  }

  /** Saves what is there now. */
  save(): Promise<void> {
    return this.saver.now();
  }

  /** Somebody else saved in between: what is here has become a session of its own. */
  private goOnAs(copyId: string, name: string): void {
    const { document } = this.state;
    this.set({ document: { ...document, session: { ...document.session, name } } });
    this.onMoved(copyId);
    this.report(
      new KinetikonError('session.conflict', 'This session was changed in another window.', {
        kept: `Both versions are kept: you go on in "${name}".`,
        next: 'The other version is in the list of sessions.',
      }),
    );
  }

  private isRoomLow = false;

  /** Says in time that the disk of the server fills up. */
  private watchRoom(freeBytes: number): void {
    const isLow = freeBytes < LITTLE_ROOM_BYTES;
    if (isLow === this.isRoomLow) return;
    this.isRoomLow = isLow;
    if (!isLow) return this.settled(TOPIC.room);
    this.report(
      new KinetikonError('storage.full', `The disk of the server has ${Math.floor(freeBytes / 1024 / 1024)} MB left.`, {
        kept: 'Everything is saved so far.',
        next: 'Make room on it, or remove unused sounds on the start page.',
      }),
      TOPIC.room,
    );
  }

  /** What is said when something of a strip was thrown in the audio thread. */
  private faultOf(stripId: string, insertId: string | null, message: string): KinetikonError {
    const { document } = this.state;
    const name = stripOf(document, stripId)?.name ?? 'What stands on the stage';
    const effect = insertId === null ? undefined : document.inserts[insertId]?.effect;
    const what = effect === undefined ? name : `${effectById(effect).name} on ${name}`;
    return new KinetikonError('engine.fault', `${what} broke: ${message}. ${name} is silent until it is built anew.`, {
      kept: 'Everything else sounds on; the session is untouched.',
      next: 'If it comes again, bypass the effect or set it otherwise.',
    });
  }

  /** @param topic the matter it is about; a message about the same one gives way */
  report(error: unknown, topic?: string): void {
    if (error instanceof KinetikonError && error.code === 'work.cancelled') return;
    const others = this.state.problems.filter((problem) => topic === undefined || problem.topic !== topic);
    this.set({ problems: [...others, errorNotification(error, topic)].slice(-4) });
  }

  /** A matter is settled: what was said about it leaves. */
  settled(topic: string): void {
    const problems = this.state.problems.filter((problem) => problem.topic !== topic);
    if (problems.length < this.state.problems.length) this.set({ problems });
  }

  dismiss(problemId: number): void {
    this.set({ problems: this.state.problems.filter((problem) => problem.id !== problemId) });
  }

  /** Whether what is heard is stopped when it passes +6 dBFS; remembered in this browser. */
  setGuard(guarded: boolean): void {
    this.set({ guarded });
    this.engine.setGuard(guarded);
    localStorage.setItem(GUARD_KEY, guarded ? 'on' : 'off');
  }

  /** Work on listening places, each done once. */
  private readonly places = new SharedTasks<JobResults['listening']>(LISTENING_PLACES.length);

  /** What a listening place does to a sound. */
  listeningPlace(id: string): Promise<JobResults['listening']> {
    const { sampleRateHz } = this.state.document.session;
    const start = (signal: AbortSignal) => this.worker.run({ kind: 'listening', id, sampleRateHz }, { signal });
    return this.places.ask(`${id} ${sampleRateHz}`, start).result;
  }

  /** Lets the output be heard in a listening place, as soon as that has been worked out. */
  async listenAt(id: string): Promise<void> {
    this.set({ listening: id });
    try {
      const { prepared } = await this.listeningPlace(id);
      if (this.state.listening === id) this.engine.listen(prepared);
    } catch (error) {
      this.set({ listening: LISTENING_PLACES[0]!.id });
      this.report(error);
    }
  }

  // Changing the document

  /** Does a command as one undoable step; false when it was refused. */
  perform(command: Command, label: string): boolean {
    this.settle();
    try {
      const { document, step } = applyCommand(this.state.document, command, label);
      this.settled(TOPIC.change);
      if (step.forward.length > 0) this.adopt(document, remember(this.state.history, step));
      return true;
    } catch (error) {
      this.report(error, TOPIC.change);
      return false;
    }
  }

  /** Takes up what work has come to: it is saved, but is no step that could be undone. */
  record(command: Command): void {
    const { gesture } = this;
    if (gesture) gesture.base = applyCommand(gesture.base, command, '').document;
    this.adopt(applyCommand(this.state.document, command, '').document, this.state.history);
  }

  /**
   * Shows and sounds a command while something is dragged; each call replaces the one before.
   * @returns why it was refused, in which case what was there before stays
   */
  preview(command: Command, label: string): KinetikonError | null {
    this.gesture ??= { base: this.state.document, step: null };
    try {
      const { document, step } = applyCommand(this.gesture.base, command, label);
      this.gesture.step = step;
      this.show(document);
      return null;
    } catch (error) {
      if (!(error instanceof KinetikonError)) throw error;
      return error;
    }
  }

  /** Ends a drag: what it came to is one step. */
  settle(): void {
    const { gesture, takes } = this;
    this.gesture = null;
    this.takes = [];
    if (takes.length > 0 && gesture) {
      this.writeTakes(takes, gesture.base);
      return;
    }
    if (gesture?.step && gesture.step.forward.length > 0) {
      this.settled(TOPIC.change);
      this.adopt(this.state.document, remember(this.state.history, gesture.step));
    }
  }

  /** Gives a drag up. */
  abandon(): void {
    const { gesture } = this;
    this.gesture = null;
    this.takes = [];
    if (gesture) this.show(gesture.base);
  }

  undo(): void {
    this.settle();
    this.travel(undo);
  }

  redo(): void {
    this.settle();
    this.travel(redo);
  }

  private travel(way: typeof undo): void {
    try {
      const there = way(this.state.document, this.state.history);
      this.settled(TOPIC.change);
      if (there) this.adopt(there.document, there.history);
    } catch (error) {
      this.report(error, TOPIC.change);
    }
  }

  private adopt(document: SessionDocument, history: StudioState['history']): void {
    this.set({ history });
    this.show(document);
    this.saver.soon(SAVE_AFTER_MS);
    this.drafts?.soon();
    this.prints.look();
  }

  private show(document: SessionDocument): void {
    const { stripId, insertId, clipIds } = this.state;
    const strip = stripOf(document, stripId) ?? document.tracks[document.session.trackIds[0] ?? ''] ?? document.main;
    const insertStays = insertId !== null && stripOfInsert(document, insertId)?.id === strip.id;
    const { laneId, pointIndices, notesFor, noteIds } = this.state;
    const notesStay = notesFor !== null && (stripOf(document, notesFor) ?? document.inserts[notesFor]);
    const points = laneId === null ? 0 : (document.lanes[laneId]?.points.length ?? 0);
    this.set({
      laneId: laneId !== null && document.lanes[laneId] ? laneId : null,
      pointIndices: pointIndices.filter((index) => index < points),
      document,
      stripId: strip.id,
      insertId: insertStays ? insertId : (strip.insertIds[0] ?? null),
      clipIds: clipIds.filter((id) => document.clips[id]),
      notesFor: notesStay ? notesFor : null,
      noteIds: noteIds.some((id) => !document.notes[id]) ? noteIds.filter((id) => document.notes[id]) : noteIds,
    });
    this.engine.setPlan(this.plan(document));
    this.loadSounds();
    void this.resources.look();
  }

  /** What is to sound, evened out where settings are compared. */
  private plan(document: SessionDocument): Plan {
    const { trims, differenceId } = this.state;
    return this.compiler.compile(document, { trims, differenceId });
  }

  /** Evens compared settings out by these decibels after the effects of a strip; 0 ends it. */
  setTrim(stripId: string, gainDb: number): void {
    const others = Object.entries(this.state.trims).filter(([id]) => id !== stripId);
    this.set({ trims: Object.fromEntries(gainDb === 0 ? others : [...others, [stripId, gainDb]]) });
    this.engine.setPlan(this.plan(this.state.document));
  }

  /** Lets only the difference be heard that an effect makes; null ends it. */
  hearDifference(insertId: string | null): void {
    this.set({ differenceId: insertId });
    this.engine.setPlan(this.plan(this.state.document));
  }

  // Controls

  /** Gives a parameter a lane that begins with what its control is set to. */
  addLane(id: string, ownerId: string, parameter: Parameter): boolean {
    const value = setValueOf(this.state.document, ownerId, parameter);
    const points = [{ beat: 0, value, shape: 'straight' as const, bend: 0 }];
    return this.perform(
      {
        type: 'lane.add',
        lane: { id, ownerId, parameter: parameter.id, on: true, points, mirrorOf: null, mirrorAmount: 100 },
      },
      `Automate ${parameter.name}`,
    );
  }

  /** Shows a lane in the timeline. */
  openLane(id: string): void {
    const lane = this.state.document.lanes[id];
    const stripId = lane && stripIdOfOwner(this.state.document, lane.ownerId);
    if (!stripId) return;
    if (stripId !== this.state.stripId) this.selectStrip(stripId);
    this.set({ view: 'timeline', laneId: id, pointIndices: [] });
  }

  /**
   * A control moved by hand, to be settled like any drag. While writing is armed and the session plays, it records;
   * otherwise a lane that moved it is off until it is given back.
   */
  turn(ownerId: string, parameter: Parameter, value: ParameterValue, label: string): KinetikonError | null {
    return this.turnAll([{ ownerId, parameter, value }], label);
  }

  /** The same with controls that one hand moves together. */
  turnAll(turns: readonly Turn[], label: string): KinetikonError | null {
    if (this.state.armed && this.engine.playing) this.write(turns);
    const commands = turns.map(({ ownerId, parameter, value }) =>
      overrideCommand(this.dragBase, ownerId, parameter.id, value),
    );
    return this.preview(commands.length === 1 ? commands[0]! : { type: 'all', commands }, label);
  }

  /** The document as it was before what is being dragged. */
  get dragBase(): SessionDocument {
    return this.gesture?.base ?? this.state.document;
  }

  private write(turns: readonly Turn[]): void {
    const beat = this.heardBeat;
    const { takes } = this;
    const same =
      turns.length === takes.length &&
      turns.every(({ ownerId, parameter }, n) => {
        const take = takes[n]!;
        return take.ownerId === ownerId && take.parameter.id === parameter.id;
      });
    // When a loop starts over, what was played in the round before is written first.
    if (takes.length > 0 && (!same || beat < takes[0]!.points.at(-1)!.beat)) this.settle();
    if (this.takes.length === 0) {
      this.takes = turns.map(({ ownerId, parameter }) => ({ ownerId, parameter, points: [] }));
    }
    turns.forEach(({ value }, n) => addPoint(this.takes[n]!, beat, value));
  }

  /** Moves a control in one go, for switches and choices. */
  turnOnce(ownerId: string, parameter: Parameter, value: ParameterValue, label: string): void {
    this.settle();
    this.turn(ownerId, parameter, value, label);
    this.settle();
  }

  /** Turns takes into points of lanes; the controls themselves stay where they were. */
  private writeTakes(takes: readonly Take[], base: SessionDocument): void {
    const { loopOn, loopStartBeat, loopEndBeat } = base.session;
    const punch = this.state.punch && loopOn ? { from: loopStartBeat, to: loopEndBeat } : null;
    const commands = takes.flatMap((take) => takeCommand(base, take, punch, newId()) ?? []);
    this.show(base);
    const names = [...new Set(takes.map(({ parameter }) => parameter.name))].join(' and ');
    if (commands.length > 0) this.perform({ type: 'all', commands }, `Write ${names}`);
  }

  // Selection

  selectStrip(stripId: string): void {
    const strip = stripOf(this.state.document, stripId);
    if (!strip) return;
    const { laneId, document, notesFor, clipIds } = this.state;
    const clipsStay = clipIds.some((id) => document.clips[id]?.trackId === stripId);
    const lane = laneId === null ? undefined : document.lanes[laneId];
    const laneStays = lane && stripIdOfOwner(document, lane.ownerId) === stripId;
    this.set({
      stripId,
      insertId: strip.insertIds[0] ?? null,
      ...(laneStays ? {} : { laneId: null, pointIndices: [] }),
      // What is shown below the timeline is of what is chosen.
      ...(clipsStay ? {} : { clipIds: [], word: null }),
      // Open notes are those of what is chosen.
      ...(notesFor === null || stripId === notesFor
        ? {}
        : { notesFor: stripId === MAIN_ID ? null : stripId, noteIds: [] }),
    });
  }

  selectInsert(insertId: string): void {
    const strip = stripOfInsert(this.state.document, insertId);
    if (strip) this.set({ stripId: strip.id, insertId });
  }

  selectClip(clipId: string, more: boolean): void {
    const { clipIds, document } = this.state;
    if (this.state.word?.clipId !== clipId) this.set({ word: null });
    const others = more ? clipIds.filter((id) => id !== clipId) : [];
    const next = more && clipIds.includes(clipId) ? others : [...others, clipId];
    this.set({ clipIds: next, laneId: null, pointIndices: [] });
    const clip = document.clips[clipId];
    if (clip && clip.trackId !== this.state.stripId) this.selectStrip(clip.trackId);
  }

  // Sound

  get heardBeat(): number {
    return this.engine.heardFrame / framesPerBeat(this.state.document);
  }

  async play(): Promise<void> {
    this.loader.again(this.state.document, this.heardBeat);
    try {
      await this.engine.play();
      this.settled(TOPIC.engine);
    } catch (error) {
      this.report(error, TOPIC.engine);
    }
  }

  togglePlay(): void {
    if (this.engine.playing) this.engine.stop();
    else void this.play();
  }

  stop(): void {
    this.engine.stop();
  }

  seekBeat(beat: number): void {
    this.engine.seek(Math.round(Math.max(0, beat) * framesPerBeat(this.state.document)));
  }

  /**
   * Every sound of the session, for work that renders it; waits for those that are still on their way.
   * @throws KinetikonError asset.missing for a sound that could not be had, work.cancelled
   */
  async allSamples(signal: AbortSignal): Promise<{ assetId: string; left: Float32Array; right: Float32Array }[]> {
    this.loader.again(this.state.document, this.heardBeat);
    while (this.state.missingSounds.length > 0) await this.changed(signal);
    const { document } = this.state;
    const lost = soundsToLoad(document, 0).find(({ id }) => !this.soundsById.has(id));
    if (lost) throw soundMissing(lost.name);
    return Object.keys(document.assets).flatMap((assetId) => {
      const sound = this.soundsById.get(assetId);
      return sound ? [{ assetId, ...sound }] : [];
    });
  }

  /** The sounds that effects work with. */
  soundsFor(inserts: readonly PlanInsert[], signal: AbortSignal): Promise<SharedSamples[]> {
    return this.samplesOf(
      inserts.flatMap(({ resource }) => resource?.assetId ?? []),
      signal,
    );
  }

  /**
   * Some sounds of the session; waits for those that are still on their way.
   * @throws KinetikonError asset.missing for one that could not be had, work.cancelled
   */
  async samplesOf(assetIds: readonly string[], signal: AbortSignal): Promise<SharedSamples[]> {
    const there = () => assetIds.every((id) => this.soundsById.has(id));
    if (!there()) {
      this.loader.ask(assetIds);
      this.loader.again(this.state.document, this.heardBeat);
    }
    while (!there()) {
      const lost = assetIds.find((id) => this.loader.isLost(id));
      if (lost !== undefined) throw soundMissing(this.state.document.assets[lost]?.name ?? 'A sound');
      await this.changed(signal);
    }
    return assetIds.map((assetId) => ({ assetId, ...this.soundsById.get(assetId)! }));
  }

  /** Waits until what is played first can be heard, so that other work does not hold it up. */
  async firstSounds(signal: AbortSignal): Promise<void> {
    const waits = () =>
      soundsToLoad(this.state.document, this.heardBeat)
        .slice(0, FIRST_SOUNDS)
        .some(({ id }) => !this.soundsById.has(id) && !this.loader.isLost(id));
    while (this.state.missingSounds.length > 0 && waits()) await this.changed(signal);
  }

  /** The next change of state. */
  private changed(signal: AbortSignal): Promise<void> {
    return new Promise((resolve, reject) => {
      const end = () => {
        leave();
        signal.removeEventListener('abort', end);
        if (signal.aborted)
          reject(new KinetikonError('work.cancelled', 'Cancelled.', { kept: 'Nothing was changed.' }));
        else resolve();
      };
      const leave = this.store.subscribe(end);
      signal.addEventListener('abort', end);
    });
  }

  /** Brings in what is played, and what is drawn of it. */
  private loadSounds(): void {
    const { document } = this.state;
    for (const asset of soundsToLoad(document, 0)) void this.draw(asset.id);
    this.loader.want(document, this.heardBeat);
  }

  private async draw(assetId: string): Promise<void> {
    if (this.drawn.has(assetId)) return;
    this.drawn.add(assetId);
    try {
      const peaks = await fetchPeaks(assetId);
      this.set({ peaks: { ...this.state.peaks, [assetId]: peaks } });
    } catch {
      // The sound itself will say that it cannot be had.
      this.drawn.delete(assetId);
    }
  }

  /** Where notes and syllables begin in what a clip plays; null until that has been found out. */
  onsetsOf(clip: Clip): readonly number[] | null {
    return this.state.onsets[soundOf(this.state.document, clip.source) ?? ''] ?? null;
  }

  /** Finds out where notes and syllables begin in a sound. */
  findOnsets(assetId: string): Promise<void> {
    return this.looks.onsets(assetId);
  }

  /** Finds out the pitch of a sound over time. */
  findPitch(assetId: string): Promise<void> {
    return this.looks.pitch(assetId);
  }

  /** Shows the pitch on the clips of a track, or hides it; nobody waits for it then. */
  showPitch(trackId: string, shown: boolean): void {
    const pitchShown = this.state.pitchShown.filter((id) => id !== trackId);
    if (shown) pitchShown.push(trackId);
    this.set({ pitchShown });
    const { document, pitches } = this.state;
    const soundsOf = (tracks: readonly string[]) =>
      Object.values(document.clips).flatMap((clip) =>
        tracks.includes(clip.trackId) ? (soundOf(document, clip.source) ?? []) : [],
      );
    const wanted = new Set(soundsOf(pitchShown));
    for (const assetId of soundsOf([trackId])) {
      if (!wanted.has(assetId) && !pitches[assetId]) this.looks.giveUp('pitch', assetId);
    }
  }

  /** Takes a sound file into the library and the engine. */
  async takeIn(file: File, signal: AbortSignal, onProgress: (done: number) => void): Promise<Asset> {
    const bytes = await file.arrayBuffer();
    const { sampleRateHz } = this.state.document.session;
    // Decoded here first: a broken file is refused before it travels.
    const sound = await idlestOf(this.decoders).run(
      { kind: 'decode', bytes, name: file.name, sampleRateHz },
      { signal, onProgress: (done) => onProgress(done * 0.5) },
    );
    const asset = await uploadAsset(file, (done) => onProgress(0.5 + done * 0.5), signal);
    this.loader.has(asset.id);
    this.adoptSound(asset.id, sound);
    await this.draw(asset.id);
    return asset;
  }

  private adoptSound(assetId: string, sound: Samples): void {
    this.soundsById.set(assetId, sound);
    this.engine.setSamples(assetId, sound);
    void this.resources.look();
  }

  // Long work

  /** Work shown with its progress and a way to give it up. */
  startJob(label: string): {
    id: string;
    signal: AbortSignal;
    progress: (done: number) => void;
    cancel: () => void;
    end: () => void;
  } {
    const id = newId();
    const controller = new AbortController();
    const cancel = () => controller.abort();
    this.set({ jobs: [...this.state.jobs, { id, label, done: 0, cancel }] });
    return {
      id,
      signal: controller.signal,
      cancel,
      progress: (done) => this.set({ jobs: this.state.jobs.map((job) => (job.id === id ? { ...job, done } : job)) }),
      end: () => this.set({ jobs: this.state.jobs.filter((job) => job.id !== id) }),
    };
  }

  /** Brings sound files in as clips, from a beat on, on a track or each on a new one. */
  async importFiles(files: readonly File[], atBeat: number, trackId: string | null): Promise<void> {
    for (const file of files) {
      const job = this.startJob(`Bringing in ${file.name}`);
      try {
        const asset = await this.takeIn(file, job.signal, job.progress);
        this.settled(TOPIC.file(file.name));
        this.placeSound(asset, atBeat, trackId);
      } catch (error) {
        this.report(error, TOPIC.file(file.name));
      } finally {
        job.end();
      }
    }
  }

  /** Puts a sound into the session as a clip, on a track or on a new one. */
  placeSound(asset: Asset, atBeat: number, trackId: string | null): void {
    const name = asset.name.replace(/\.[^.]*$/, '') || asset.name;
    const target = trackId !== null && this.state.document.tracks[trackId] ? trackId : newId();
    const clip = newClip({
      id: newId(),
      trackId: target,
      source: { kind: 'sound', assetId: asset.id },
      name: cutText(name, NAME_LENGTH),
      startBeat: Math.max(0, atBeat),
      lengthSeconds: asset.frames / asset.sampleRateHz,
    });
    const commands: Command[] = [{ type: 'asset.add', asset: { ...asset } }];
    if (target !== trackId) commands.push({ type: 'track.add', id: target, name: clip.name });
    commands.push({ type: 'clip.add', clip });
    if (this.perform({ type: 'all', commands }, `Bring in ${name}`)) {
      this.selectStrip(target);
      this.set({ clipIds: [clip.id] });
    }
  }
}
