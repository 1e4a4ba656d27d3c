import { createStore } from 'zustand/vanilla';
import { effectById } from '@/core/effects/registry';
import { KinetikonError } from '@/core/errors';
import type { JobResults } from '@/core/jobs/kinds';
import { Compiler } from '@/core/session/compile/compiler';
import { stripOf } from '@/core/session/records/queries';
import { takeDecoders } from '@/runtime/client/decoders';
import { EngineClient } from '@/runtime/client/engineClient';
import { PagesClient } from '@/runtime/client/pagesClient';
import { WorkerClient } from '@/runtime/client/workerClient';
import { ControlMoves } from './controlMoves';
import { DraftKeeper } from './draftKeeper';
import { downloadFile } from '../ui/downloadFile';
import { Bounces } from './bounces';
import type { BounceStore } from './bounceStore';
import { Clipboard } from './clipboard';
import type { Drafts } from './drafts';
import { Editor } from './editor';
import { Jobs } from './jobs';
import { KeyPlayer } from './keyPlayer';
import { Messages, TOPIC } from './messages';
import { Monitor } from './monitor';
import { newId } from './newId';
import { PrintQueue } from './printQueue';
import type { Opening } from './recovery';
import { ResourceLoader } from './resourceLoader';
import { Saver } from './saver';
import { Selection } from './selection';
import { sessionStore } from './sessionStore';
import { SharedTasks } from './sharedTasks';
import { SoundImport } from './soundImport';
import { Sounds } from './sounds';
import { initialState, type StudioState, type StudioStore } from './state';
import { Transport } from './transport';

const SAVE_AFTER_MS = 500;
const KEPT_PICTURES = 24;

/** Free space on the server's disk under which the user is warned. */
const LITTLE_ROOM_BYTES = 500 * 1024 * 1024;

/** An open session: its state, the objects that change it, the engine that plays it, its workers, and saving. */
export class Studio {
  readonly store: StudioStore;
  readonly engine: EngineClient;
  /** For pictures and analyses, which are short. */
  readonly worker = new WorkerClient();
  /** For bounces and prints, which are long: pictures do not wait for them. */
  readonly renderer = new WorkerClient();
  readonly messages: Messages;
  readonly jobs: Jobs;
  readonly editor: Editor;
  readonly selection: Selection;
  readonly sounds: Sounds;
  readonly pages: PagesClient;
  readonly transport: Transport;
  readonly monitor: Monitor;
  readonly controls: ControlMoves;
  readonly imports: SoundImport;
  readonly prints = new PrintQueue(this);
  readonly bounces: Bounces;
  readonly keys = new KeyPlayer(this);
  /** Pictures of effects that were drawn lately. */
  readonly pictures = new SharedTasks<JobResults['echogram' | 'picture' | 'room']>(KEPT_PICTURES);
  private readonly resources: ResourceLoader;
  /** For sounds, which come in several at a time. */
  private readonly decoders = takeDecoders();
  private readonly compiler = new Compiler();
  private readonly saver: Saver;
  private readonly drafts: DraftKeeper | null;
  readonly clipboard = new Clipboard();
  private readonly opening: Pick<Opening, 'unsaved' | 'notes'>;
  private stopWaiting: () => void = () => {};
  private isRoomLow = false;

  /**
   * @param drafts where unsaved work is kept; null where the browser keeps none
   * @param bounceStore where bounces are kept; likewise
   */
  constructor(
    opening: Opening,
    private readonly onMoved: (sessionId: string) => void,
    drafts: Drafts | null,
    bounceStore: BounceStore | null,
  ) {
    const { stored, unsaved, draftKey, notes } = opening;
    this.opening = { unsaved, notes };
    const store: StudioStore = createStore(() => initialState(stored));
    const messages = new Messages(store);
    this.store = store;
    this.messages = messages;
    this.jobs = new Jobs(store, messages);
    this.bounces = new Bounces(this, bounceStore);
    this.editor = new Editor(store, messages, () => this.keep());
    // The selection follows the document before anything else does.
    this.selection = new Selection(store);
    this.engine = this.newEngine();
    this.pages = new PagesClient(this.engine.meters.buffer as SharedArrayBuffer, {
      onMemory: (memory) => this.engine.setPageMemory(memory),
      onUnrolling: (unrolled) => store.setState({ unrolled }),
      onProblem: (error, soundId) => messages.report(error, TOPIC.sound(soundId)),
      onLost: (error, soundId) => this.sounds.lost(soundId, error),
    });
    const { engine, pages, worker, decoders, editor, selection, jobs } = this;
    this.sounds = new Sounds({
      store,
      engine,
      pages,
      worker,
      decoders,
      messages,
      heardBeat: () => this.transport.heardBeat,
      onSound: () => void this.resources.look(),
    });
    const { sounds } = this;
    this.transport = new Transport(store, engine, sounds, pages, messages);
    this.monitor = new Monitor(store, engine, worker, messages);
    this.controls = new ControlMoves(store, editor, engine, this.transport);
    this.imports = new SoundImport({ store, decoders, sounds, editor, selection, jobs, messages });
    this.resources = new ResourceLoader({
      engine,
      worker: this.renderer,
      sampleRateHz: () => this.state.document.session.sampleRateHz,
      soundOf: (assetId) => sounds.get(assetId),
      onWaiting: (waiting) => {
        if (waiting.join() !== this.state.waitingInserts.join()) this.set({ waitingInserts: waiting });
      },
      onProblem: (error) => messages.report(error),
    });
    this.drafts =
      drafts &&
      new DraftKeeper(
        drafts,
        draftKey ?? drafts.keyOf(stored.id),
        draftKey !== null,
        () => this.saver.unsaved,
        (error) => messages.report(error),
      );
    this.saver = this.newSaver(stored);
    store.subscribe((state, before) => this.follow(state, before));
  }

  private newEngine(): EngineClient {
    const { messages } = this;
    return new EngineClient({
      onState: (engineState) => {
        this.set({ engineState });
        if (engineState === 'running') messages.settled(TOPIC.engine);
      },
      onProblem: (error) => messages.report(error, TOPIC.engine),
      onFault: ({ stripId, insertId, message }) =>
        messages.report(this.faultOf(stripId, insertId, message), TOPIC.engine),
    });
  }

  private newSaver(stored: Opening['stored']): Saver {
    const { messages } = this;
    return new Saver(
      stored,
      sessionStore,
      {
        // A drag is saved once it is settled.
        newest: () => ({ document: this.editor.dragBase, history: this.state.history }),
        onState: (saveState) => {
          this.set({ saveState });
          if (saveState === 'saved') {
            messages.settled(TOPIC.saving);
            this.drafts?.saved();
          }
        },
        onProblem: (error) => messages.report(error, TOPIC.saving),
        onRoom: (freeBytes) => this.watchRoom(freeBytes),
        onCopied: (copyId, name) => this.goOnAs(copyId, name),
      },
      newId,
    );
  }

  /** Hands a finished file to the browser's downloads. */
  deliver(fileName: string, file: Blob): void {
    downloadFile(fileName, file);
  }

  /** Id of the stored session; it changes when the session becomes a copy. */
  get sessionId(): string {
    return this.saver.sessionId;
  }

  get state(): StudioState {
    return this.store.getState();
  }

  set(part: Partial<StudioState>): void {
    this.store.setState(part);
  }

  /** Loads the sounds and starts the engine. */
  async open(): Promise<void> {
    this.monitor.restoreGuard();
    this.prints.restoreMachines();
    const { unsaved, notes } = this.opening;
    if (unsaved) this.editor.adopt(unsaved.document, unsaved.history);
    for (const note of notes) this.messages.report(note);
    this.sendPlan();
    this.sounds.load();
    this.prints.look();
    void this.bounces.open().catch((error: unknown) => this.messages.report(error));
    void this.sounds.firstSounds(new AbortController().signal).then(() => this.resources.look());
    await this.engine.prepare().catch((error: unknown) => this.messages.report(error, TOPIC.engine));
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
    this.transport.close();
    this.saver.close();
    this.bounces.close();
    void this.engine.dispose();
    this.pages.dispose();
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

  /** Called after every change that is to be saved. */
  private keep(): void {
    this.saver.soon(SAVE_AFTER_MS);
    this.drafts?.soon();
    this.sounds.load();
    this.prints.look();
  }

  /** Called after every change of the state: the engine plays the document that is shown. */
  private follow({ document, trims, differenceId }: StudioState, before: StudioState): void {
    if (document !== before.document || trims !== before.trims || differenceId !== before.differenceId) this.sendPlan();
    const { inserts, session } = before.document;
    if (document.inserts !== inserts || document.session !== session) void this.resources.look();
  }

  private sendPlan(): void {
    const { document, trims, differenceId } = this.state;
    const plan = this.compiler.compile(document, { trims, differenceId });
    this.engine.setPlan(plan);
    this.pages.setPlan(plan);
  }

  /** Somebody else saved in between: what is here has become a session of its own. */
  private goOnAs(copyId: string, name: string): void {
    this.editor.record({ type: 'session.set', values: { name } });
    this.onMoved(copyId);
    this.messages.report(
      new KinetikonError('session.conflict', 'This session was changed in another window.', {
        kept: `Both versions are kept: you go on in "${name}".`,
        next: 'The other version is in the list of sessions.',
      }),
    );
  }

  /** Warns in time that the disk of the server fills up. */
  private watchRoom(freeBytes: number): void {
    const isLow = freeBytes < LITTLE_ROOM_BYTES;
    if (isLow === this.isRoomLow) return;
    this.isRoomLow = isLow;
    if (!isLow) return this.messages.settled(TOPIC.room);
    this.messages.report(
      new KinetikonError('storage.full', `The disk of the server has ${Math.floor(freeBytes / 1024 / 1024)} MB left.`, {
        kept: 'Everything is saved so far.',
        next: 'Make room on it, or remove unused sounds on the start page.',
      }),
      TOPIC.room,
    );
  }

  /** The message about an effect, or a strip, that threw in the audio thread. */
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
}
