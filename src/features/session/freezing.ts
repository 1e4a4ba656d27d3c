import { compileTap, printSource } from '@/core/session/compile';
import { channelOf, type SessionDocument } from '@/core/session/records';
import type { Studio } from './studio';

/** Prints a track or a return with its effects and lets the print play in their place. */
export async function freeze(studio: Studio, stripId: string): Promise<void> {
  const { document } = studio.state;
  const strip = channelOf(document, stripId);
  if (!strip) return;
  const job = studio.startJob(`Freezing ${strip.name}`);
  try {
    const plan = compileTap(document, stripId);
    const samples = await studio.allSamples(job.signal);
    const range = { fromFrame: 0, toFrame: plan.endFrame, tailSeconds: 'auto' as const };
    const { bytes } = await studio.worker.run(
      { kind: 'print', plan, samples, range },
      { signal: job.signal, onProgress: (done) => job.progress(done * 0.6) },
    );
    const file = new File([bytes as Uint8Array<ArrayBuffer>], `${strip.name}, frozen.wav`, { type: 'audio/wav' });
    const asset = await studio.takeIn(file, job.signal, (done) => job.progress(0.6 + done * 0.4));
    const frozen = { assetId: asset.id, source: printSource(document, stripId) };
    studio.perform(
      {
        type: 'all',
        commands: [
          { type: 'asset.add', asset: { ...asset } },
          { type: 'strip.set', id: stripId, values: { frozen } },
        ],
      },
      `Freeze ${strip.name}`,
    );
  } catch (error) {
    studio.report(error);
  } finally {
    job.end();
  }
}

/** Lets the effects work again; the print stays in the library of sounds. */
export function thaw(studio: Studio, stripId: string): void {
  const strip = channelOf(studio.state.document, stripId);
  if (strip) studio.perform({ type: 'strip.set', id: stripId, values: { frozen: null } }, `Thaw ${strip.name}`);
}

/** Whether something has changed that the print of a strip depends on. */
export function isStale(document: SessionDocument, stripId: string): boolean {
  const frozen = channelOf(document, stripId)?.frozen;
  return frozen !== null && frozen !== undefined && frozen.source !== printSource(document, stripId);
}
