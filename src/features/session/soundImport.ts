import { KinetikonError } from '@/core/errors';
import { mediaTypeOf } from '@/core/formats/soundFormats';
import type { Command } from '@/core/session/commands';
import { NAME_LENGTH } from '@/core/session/nameLength';
import type { Asset } from '@/core/session/records/clips';
import { newClip } from '@/core/session/records/factories';
import { cutText } from '@/core/text';
import { uploadAsset } from '@/runtime/client/api';
import type { WorkerClient } from '@/runtime/client/workerClient';
import type { Editor } from './editor';
import type { Jobs } from './jobs';
import { TOPIC, type Messages } from './messages';
import { newId } from './newId';
import type { Selection } from './selection';
import { idlestOf } from './soundLoader';
import type { Sounds } from './sounds';
import type { StudioStore } from './state';

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
  async takeIn(file: File, signal: AbortSignal, onProgress: (done: number) => void): Promise<Asset> {
    const { store, decoders, sounds } = this.around;
    const bytes = await file.arrayBuffer();
    const { sampleRateHz } = store.getState().document.session;
    const sound = await idlestOf(decoders).run(
      { kind: 'decode', bytes, name: file.name, sampleRateHz },
      { signal, onProgress: (done) => onProgress(done * 0.5) },
    );
    const asset = await uploadAsset(file, (done) => onProgress(0.5 + done * 0.5), signal);
    await sounds.add(asset.id, sound);
    return asset;
  }

  /** Brings sound files in as clips, from a beat on, on a track or each on a new one. */
  async importFiles(files: readonly File[], atBeat: number, trackId: string | null): Promise<void> {
    for (const file of files) await this.importFile(file, atBeat, trackId);
  }

  private async importFile(file: File, atBeat: number, trackId: string | null): Promise<void> {
    const { jobs, messages } = this.around;
    const topic = TOPIC.file(file.name);
    try {
      const asset = await jobs.track(`Bringing in ${file.name}`, ({ signal, progress }) =>
        this.takeIn(file, signal, progress),
      );
      messages.settled(topic);
      this.placeSound(asset, atBeat, trackId);
    } catch (error) {
      const isBroken = error instanceof KinetikonError && error.code === 'file.broken';
      const act = () => void this.importWhole(file, atBeat, trackId);
      messages.report(error, topic, isBroken ? { label: 'Bring in what is whole', act } : undefined);
    }
  }

  /** Brings in a damaged file as far as it can be read, as a sound of its own. */
  private async importWhole(file: File, atBeat: number, trackId: string | null): Promise<void> {
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
    const name = `${file.name.replace(/\.[^.]*$/, '')}, cut.wav`;
    const whole = new File([found.bytes as Uint8Array<ArrayBuffer>], name, { type: mediaTypeOf('wav') });
    await this.importFile(whole, atBeat, trackId);
  }

  /** Puts a sound into the session as a clip, on a track or on a new one. */
  placeSound(asset: Asset, atBeat: number, trackId: string | null): void {
    const { store, editor, selection } = this.around;
    const name = asset.name.replace(/\.[^.]*$/, '') || asset.name;
    const target = trackId !== null && store.getState().document.tracks[trackId] ? trackId : newId();
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
    if (editor.perform({ type: 'all', commands }, `Bring in ${name}`)) {
      selection.selectStrip(target);
      store.setState({ clipIds: [clip.id] });
    }
  }
}
