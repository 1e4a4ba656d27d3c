import { isCancelled, KinetikonError } from '@/core/errors';
import { readsLongSounds, type Done, type JobResults, type PrintTask, type Task } from '@/core/jobs/kinds';
import type { History } from '@/core/session/storedHistory';
import { channelOf } from '@/core/session/records/queries';
import type { Asset } from '@/core/session/records/clips';
import type { Print } from '@/core/session/records/prints';
import type { SessionDocument } from '@/core/session/records/document';
import { isFresh, printsBehind, printWork } from '@/core/session/printing';
import type { WorkerClient } from '@/runtime/client/workerClient';
import type { Editor } from './editor';
import type { Jobs, RunningJob } from './jobs';
import { renderOnMachines } from './machineRender';
import type { Messages } from './messages';
import type { SoundImport } from './soundImport';
import type { Sounds } from './sounds';
import type { StudioState } from './state';

/** `failed` is about what it would be made of now; when that changes it counts as stale. */
export type PrintState = 'fresh' | 'stale' | 'computing' | 'failed';

const fingerprints = new WeakMap<SessionDocument, Map<string, string | undefined>>();

/** What a print would be made from now; worked out once for each document, as every clip in sight asks for it. */
function fingerprintNow(document: SessionDocument, print: Print): string | undefined {
  const known = fingerprints.get(document) ?? new Map<string, string | undefined>();
  fingerprints.set(document, known);
  if (!known.has(print.id)) known.set(print.id, printWork(document, print)?.fingerprint);
  return known.get(print.id);
}

/** State of a print. */
export function printState(
  { document, printing, failedPrints }: Pick<StudioState, 'document' | 'printing' | 'failedPrints'>,
  printId: string,
): PrintState {
  if (printing.includes(printId)) return 'computing';
  const print = document.prints[printId];
  const fingerprint = print && fingerprintNow(document, print);
  if (!print || fingerprint === undefined) return 'stale';
  if (print.made?.fingerprint === fingerprint) return 'fresh';
  return failedPrints[printId] === fingerprint ? 'failed' : 'stale';
}

/** The parts of the studio that the queue uses. */
export interface PrintHost {
  readonly sessionId: string;
  readonly state: StudioState;
  readonly renderer: Pick<WorkerClient, 'run'>;
  set(part: Partial<StudioState>): void;
  readonly jobs: Pick<Jobs, 'track'>;
  readonly sounds: Pick<Sounds, 'samplesOf' | 'playedOf'>;
  readonly imports: Pick<SoundImport, 'takeIn'>;
  readonly editor: Pick<Editor, 'record'>;
  readonly messages: Pick<Messages, 'report'>;
}

/** Name of a print, and of its sound file. */
export function printName(document: SessionDocument, { recipe }: Pick<Print, 'recipe'>): string {
  const clip = (id: string) => document.clips[id]?.name ?? 'Clip';
  switch (recipe.kind) {
    case 'strip':
      return `${channelOf(document, recipe.stripId)?.name ?? 'Strip'}, frozen`;
    case 'clip':
      return `${clip(recipe.clipId)}, rendered`;
    case 'swell':
      return `Swell into ${clip(recipe.clipId)}`;
    case 'repair': {
      const { source } = recipe;
      return `${source.kind === 'sound' ? (document.assets[source.assetId]?.name ?? 'Sound') : 'Sound'}, repaired`;
    }
  }
}

const loudSwell = (name: string, overDb: number) =>
  new KinetikonError('print.loud', `${name} passes full scale by ${overDb.toFixed(1)} dB.`, {
    kept: 'Its file keeps that; a bounce in 16 or 24 bits would cut it off.',
    next: 'Lower its level.',
  });

const MACHINES_KEY = 'kinetikon.freezesOnMachines';

/** Makes prints anew, one after the other, each after those that are part of it. */
export class PrintQueue {
  private last: Promise<void> = Promise.resolve();
  /** Prints under way: their fingerprint, and how to cancel them. */
  private readonly underWay = new Map<string, { readonly fingerprint: string; readonly cancel: () => void }>();
  /** Prints that are asked for, and what they are to be made from. */
  private readonly asked = new Map<string, string>();

  constructor(private readonly host: PrintHost) {}

  /** Takes up where strips are frozen as it was last left in this browser. */
  restoreMachines(): void {
    this.host.set({ freezesOnMachines: localStorage.getItem(MACHINES_KEY) === 'on' });
  }

  /** @param on strips are frozen on the studio's machines; remembered in this browser */
  setMachines(on: boolean): void {
    this.host.set({ freezesOnMachines: on });
    localStorage.setItem(MACHINES_KEY, on ? 'on' : 'off');
  }

  /**
   * Renders a print anew, after those asked for before. Not an undo step: the recipe stays what it was. What goes wrong
   * is reported and marked, and never holds up the next print.
   */
  renew(printId: string): Promise<void> {
    this.last = this.last
      .then(() => this.make(printId, new Set()))
      .catch((error: unknown) => this.host.messages.report(error));
    return this.last;
  }

  /** Makes what is out of date by itself: all but frozen strips, which are long. */
  look(): void {
    const { document, failedPrints } = this.host.state;
    for (const print of Object.values(document.prints)) {
      if (print.recipe.kind === 'strip') continue;
      const fingerprint = printWork(document, print)?.fingerprint;
      if (fingerprint === undefined) continue;
      const running = this.underWay.get(print.id);
      if (running && running.fingerprint !== fingerprint) running.cancel();
      if (print.made?.fingerprint === fingerprint || failedPrints[print.id] === fingerprint) continue;
      if (this.asked.get(print.id) === fingerprint) continue;
      this.asked.set(print.id, fingerprint);
      void this.renew(print.id).then(() => {
        if (this.asked.get(print.id) === fingerprint) this.asked.delete(print.id);
      });
    }
  }

  /** @param seen prints under way above this one */
  private async make(printId: string, seen: ReadonlySet<string>): Promise<void> {
    const { host } = this;
    const print = host.state.document.prints[printId];
    if (!print || seen.has(printId)) return;
    for (const id of printsBehind(host.state.document, print)) await this.make(id, new Set([...seen, printId]));
    if (isFresh(host.state.document, print)) return;
    const done = await this.render(print, `Making ${printName(host.state.document, print)}`);
    const now = host.state.document.prints[printId];
    if (!done || !now) return;
    const { asset, made } = done;
    const old = now.made?.assetId;
    try {
      host.editor.record({
        type: 'all',
        commands: [
          { type: 'asset.add', asset: { ...asset } },
          { type: 'print.made', id: printId, made },
          ...(old && old !== asset.id && !remembers(host.state.history, old)
            ? [{ type: 'asset.drop' as const, id: old }]
            : []),
        ],
      });
    } catch (error) {
      this.fail(printId, made.fingerprint, error);
    }
  }

  /** Renders a print and takes its sound in; null when that failed, which is said. */
  async render(
    print: Pick<Print, 'id' | 'recipe'>,
    label: string,
  ): Promise<{ asset: Asset; made: NonNullable<Print['made']> } | null> {
    const { host } = this;
    const work = printWork(host.state.document, print);
    if (!work) return null;
    const { fingerprint } = work;
    const isForMachines = print.recipe.kind === 'strip' && host.state.freezesOnMachines;
    host.set({ printing: [...host.state.printing, print.id] });
    const make = async (job: RunningJob) => {
      this.underWay.set(print.id, { fingerprint, cancel: job.cancel });
      const {
        file: made,
        landSeconds,
        overDb,
      } = await (isForMachines ? this.runOnMachines(print, job) : this.run(work, print.id, job));
      const name = printName(host.state.document, print);
      if (print.recipe.kind === 'swell' && overDb > 0) host.messages.report(loudSwell(name, overDb));
      const file = new File([made], `${name}.wav`, {
        type: 'audio/wav',
      });
      const asset = await host.imports.takeIn(file, job.signal, (done) => job.progress(0.6 + done * 0.4), {
        whole: true,
      });
      return { asset, made: { assetId: asset.id, fingerprint, landSeconds } };
    };
    try {
      return await host.jobs.track(label, make);
    } catch (error) {
      this.fail(print.id, fingerprint, error);
      return null;
    } finally {
      this.underWay.delete(print.id);
      const growing = Object.fromEntries(Object.entries(host.state.growing).filter(([id]) => id !== print.id));
      host.set({ printing: host.state.printing.filter((id) => id !== print.id), growing });
    }
  }

  /** Reports why a print could not be made of what `fingerprint` tells. One that was cancelled is still to be made. */
  private fail(printId: string, fingerprint: string, error: unknown): void {
    const { host } = this;
    if (!isCancelled(error)) host.set({ failedPrints: { ...host.state.failedPrints, [printId]: fingerprint } });
    host.messages.report(error);
  }

  /** Has the studio's machines make a print. */
  private async runOnMachines({ recipe }: Pick<Print, 'recipe'>, job: RunningJob): Promise<Done<'print', Blob>> {
    const { sessionId, state } = this.host;
    const request = { kind: 'print' as const, document: state.document, recipe };
    const { file, facts } = await renderOnMachines(
      { request, name: printName(state.document, { recipe }), sessionId },
      { signal: job.signal, progress: (done) => job.progress(done * 0.6) },
    );
    return { file, ...(facts as JobResults['print']) };
  }

  /** Makes a print here. A swell is seen while it grows. */
  private async run(
    { task, soundIds }: Pick<NonNullable<ReturnType<typeof printWork>>, 'task' | 'soundIds'>,
    printId: string,
    { signal, progress }: RunningJob,
  ): Promise<Done<'print', Blob>> {
    const sounds = this.host.sounds;
    const samples = await (readsLongSounds(task)
      ? sounds.playedOf(soundIds, signal)
      : sounds.samplesOf(soundIds, signal));
    const { host } = this;
    return host.renderer.run({ ...task, samples } as Extract<Task, { kind: PrintTask['kind'] }>, {
      signal,
      onProgress: (done) => {
        progress(done * 0.6);
        const growing = host.state.growing[printId];
        if (growing) host.set({ growing: { ...host.state.growing, [printId]: { ...growing, done } } });
      },
      onBegun: (left, right) => host.set({ growing: { ...host.state.growing, [printId]: { left, right, done: 0 } } }),
    });
  }
}

/** True if a step of the history refers to a sound. */
function remembers(history: History, assetId: string): boolean {
  return JSON.stringify([history.past, history.future]).includes(assetId);
}
