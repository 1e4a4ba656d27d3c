import { KinetikonError } from '@/core/errors';
import { heardByItself, type Heard } from '@/core/formats/speakers';
import { AAC, HEAD_BYTES, mediaTypeOf } from '@/core/formats/soundFormats';
import type { Command } from '@/core/session/commands';
import { NAME_LENGTH } from '@/core/session/nameLength';
import type { Asset, Clip } from '@/core/session/records/clips';
import { secondsOf } from '@/core/session/records/sounds';
import { newClip } from '@/core/session/records/factories';
import { cutText } from '@/core/text';
import { uploadAsset } from '@/runtime/client/api';
import type { TaskOptions, WorkerClient } from '@/runtime/client/workerClient';
import { timesApart, unplacedIn, type ArrivalAnswer, type ArrivingFile } from './arrival';
import type { Editor } from './editor';
import type { Jobs } from './jobs';
import { TOPIC, type Messages } from './messages';
import { newId } from './newId';
import type { Selection } from './selection';
import { LONG_SECONDS } from '@/core/pages/pagedSamples';
import { idlestOf } from './soundLoader';
import type { Sounds } from './sounds';
import type { StudioStore } from './state';

/** Files from this size on are asked whether their sound is long. */
const LARGE_BYTES = 4 * 1024 * 1024;

/** What comes along with a sound from its file. */
type Extras = Pick<Asset, 'heard' | 'about'>;

const withoutExtension = (name: string) => name.replace(/\.[^.]*$/, '');

interface TakeInOptions extends Extras {
  /** It is held whole, however long it is: what it takes the place of sounds on until then. */
  readonly whole?: boolean;
}

interface Surroundings {
  readonly store: StudioStore;
  readonly decoders: readonly WorkerClient[];
  readonly sounds: Sounds;
  readonly editor: Editor;
  readonly selection: Selection;
  readonly jobs: Jobs;
  readonly messages: Messages;
}

/** Brings sound files into the library and the session. */
export class SoundImport {
  constructor(private readonly around: Surroundings) {}

  /** Brings a sound file into the library, decoded here first: a broken file is refused before it travels. */
  async takeIn(
    file: File,
    signal: AbortSignal,
    onProgress: (done: number) => void,
    { heard, about, whole = false }: TakeInOptions = {},
  ): Promise<Asset> {
    const { store, decoders, sounds } = this.around;
    const decoder = idlestOf(decoders);
    const begins = { signal, onProgress: (done: number) => onProgress(done * 0.5) };
    const isLong = !whole && file.size > LARGE_BYTES && (await this.isLong(file, decoder, begins));
    const { sampleRateHz } = store.getState().document.session;
    const sound = isLong
      ? null
      : await decoder.run(
          { kind: 'decode', bytes: await file.arrayBuffer(), name: file.name, sampleRateHz, heard },
          begins,
        );
    const uploaded = await uploadAsset(file, (done) => onProgress(0.5 + done * 0.5), signal);
    const asset = { ...uploaded, ...(heard === undefined ? {} : { heard }), ...(about === undefined ? {} : { about }) };
    // A long one is opened when something plays it.
    if (sound) await sounds.add(asset, sound);
    return asset;
  }

  /** True for a sound that is read by pages; its file is read through in parts. */
  private async isLong(file: File, decoder: WorkerClient, options: TaskOptions): Promise<boolean> {
    const task = { kind: 'scan' as const, file, name: file.name, longerThanSeconds: LONG_SECONDS };
    return (await decoder.run(task, options)).isLong;
  }

  /**
   * Brings sound files in as clips, from a beat on, on a track or on new ones. How several are placed is asked, and what
   * is heard of channels of which the file does not tell the places.
   */
  async importFiles(files: readonly File[], atBeat: number, trackId: string | null): Promise<void> {
    if (files.length === 0) {
      this.around.messages.report(
        new KinetikonError('file.empty', 'There is no sound file in it.', { kept: 'Nothing was brought in.' }),
      );
      return;
    }
    const arriving = await this.lookAt(files);
    if (!arriving || arriving.length === 0) return;
    const answer = await this.ask(arriving, trackId);
    if (!answer) return;
    const perSecond = this.around.store.getState().document.session.tempoBpm / 60;
    const later = answer.placing === 'times' ? timesApart(arriving) : [];
    let [place, track] = [atBeat, arriving.length === 1 || answer.placing === 'row' ? trackId : null];
    for (const [n, { file, about }] of arriving.entries()) {
      const heard = about
        ? (heardByItself(about.channels, about.speakers) ?? answer.heard.get(about.channels))
        : undefined;
      const tells = about !== null && Object.keys(about.told).length > 0;
      const extras = { heard, about: tells ? about.told : undefined };
      const clip = await this.importFile(file, place + (later[n] ?? 0) * perSecond, track, extras);
      if (!clip || answer.placing !== 'row') continue;
      [place, track] = [clip.startBeat + clip.lengthSeconds * perSecond, clip.trackId];
    }
  }

  /** A file in a form that is read everywhere, and what it tells: AAC becomes WAV. */
  async unpacked(file: File, signal: AbortSignal, onProgress: (done: number) => void): Promise<ArrivingFile> {
    const { decoders } = this.around;
    if (!AAC.begins(new Uint8Array(await file.slice(0, HEAD_BYTES).arrayBuffer()))) {
      const { about } = await idlestOf(decoders).run({ kind: 'about', file }, { signal });
      return { file, about };
    }
    const task = { kind: 'unpack' as const, file, name: file.name };
    const { file: whole, about } = await idlestOf(decoders).run(task, { signal, onProgress });
    const name = `${withoutExtension(file.name)}.wav`;
    return { file: new File([whole], name, { type: mediaTypeOf('wav') }), about };
  }

  /** @returns null if it was cancelled */
  private async lookAt(files: readonly File[]): Promise<ArrivingFile[] | null> {
    return this.around.jobs.run(
      files.length === 1 ? `Looking at ${files[0]!.name}` : `Looking at ${files.length} files`,
      async ({ signal, progress }) => {
        const arriving: ArrivingFile[] = [];
        for (const [n, file] of files.entries()) {
          try {
            arriving.push(await this.unpacked(file, signal, (done) => progress((n + done) / files.length)));
          } catch (error) {
            if (signal.aborted) throw error;
            this.around.messages.report(error, TOPIC.file(file.name));
          }
          progress((n + 1) / files.length);
        }
        return arriving;
      },
    );
  }

  /** Asks what cannot be known; null if the files stay where they are. */
  private ask(files: readonly ArrivingFile[], trackId: string | null): Promise<ArrivalAnswer | null> {
    const { store } = this.around;
    const unplaced = unplacedIn(files);
    if (files.length === 1 && unplaced.length === 0)
      return Promise.resolve({ placing: 'tracks', heard: new Map<number, Heard>() });
    // Whoever drops more while the question stands means these instead.
    store.getState().arrival?.answer(null);
    const trackName = store.getState().document.tracks[trackId ?? '']?.name ?? null;
    return new Promise((resolve) => {
      const answer = (given: ArrivalAnswer | null) => {
        store.setState({ arrival: null });
        resolve(given);
      };
      store.setState({ arrival: { files, trackName, unplaced, answer } });
    });
  }

  private async importFile(file: File, atBeat: number, trackId: string | null, extras: Extras): Promise<Clip | null> {
    const { jobs, messages } = this.around;
    const topic = TOPIC.file(file.name);
    try {
      const asset = await jobs.track(`Bringing in ${file.name}`, ({ signal, progress }) =>
        this.takeIn(file, signal, progress, extras),
      );
      messages.settled(topic);
      return this.placeSound(asset, atBeat, trackId);
    } catch (error) {
      const isBroken = error instanceof KinetikonError && error.code === 'file.broken';
      const act = () => void this.importWhole(file, atBeat, trackId, extras);
      messages.report(error, topic, isBroken ? { label: 'Bring in what is whole', act } : undefined);
      return null;
    }
  }

  /** Brings in a damaged file as far as it can be read, as a sound of its own. */
  private async importWhole(file: File, atBeat: number, trackId: string | null, extras: Extras): Promise<void> {
    const { decoders, jobs } = this.around;
    const found = await jobs.run(
      `Reading what is whole of ${file.name}`,
      async ({ signal }) => {
        const bytes = await file.arrayBuffer();
        return idlestOf(decoders).run({ kind: 'salvage', bytes, name: file.name }, { signal });
      },
      TOPIC.file(file.name),
    );
    if (!found) return;
    const name = `${withoutExtension(file.name)}, cut.wav`;
    const whole = new File([found.bytes as Uint8Array<ArrayBuffer>], name, { type: mediaTypeOf('wav') });
    await this.importFile(whole, atBeat, trackId, extras);
  }

  /** Puts a sound into the session as a clip, on a track or on a new one; null if the session does not take it. */
  placeSound(asset: Asset, atBeat: number, trackId: string | null): Clip | null {
    const { store, editor, selection } = this.around;
    const name = withoutExtension(asset.name) || asset.name;
    const target = trackId !== null && store.getState().document.tracks[trackId] ? trackId : newId();
    const clip = newClip({
      id: newId(),
      trackId: target,
      source: { kind: 'sound', assetId: asset.id },
      name: cutText(name, NAME_LENGTH),
      startBeat: Math.max(0, atBeat),
      lengthSeconds: secondsOf(asset),
    });
    const commands: Command[] = [{ type: 'asset.add', asset: { ...asset } }];
    const { assets, clips } = store.getState().document;
    const before = assets[asset.id];
    const isPlayed = Object.values(clips).some(({ source }) => source.kind === 'sound' && source.assetId === asset.id);
    // A sound that only effects worked with has no choice of channels yet.
    if (before && !isPlayed && asset.heard !== before.heard)
      commands.push({ type: 'asset.hear', id: asset.id, heard: asset.heard ?? null });
    if (target !== trackId) commands.push({ type: 'track.add', id: target, name: clip.name });
    commands.push({ type: 'clip.add', clip });
    if (!editor.perform({ type: 'all', commands }, `Bring in ${name}`)) return null;
    selection.selectStrip(target);
    store.setState({ clipIds: [clip.id] });
    return clip;
  }
}
