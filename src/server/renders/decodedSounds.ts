import { runJob } from '@/core/jobs/jobs';
import type { SharedSamples } from '@/core/jobs/kinds';
import { assetOfSound } from '@/core/session/records/sounds';
import type { FileOf } from './renderMessages';

/** Bytes of decoded sounds that are kept. */
const MOST_BYTES = 512 * 1024 * 1024;

const bytesOf = ({ left, right, more }: SharedSamples) =>
  [...new Set([left, right, ...(more ?? [])])].reduce((sum, channel) => sum + channel.byteLength, 0);

/** Decodes sounds, and keeps those that were used last: renders of one session play the same ones. */
export class DecodedSounds {
  /** By sound and rate, the one used last at the end. */
  private readonly kept = new Map<string, SharedSamples>();
  private bytes = 0;

  constructor(private readonly mostBytes = MOST_BYTES) {}

  has(soundId: string, sampleRateHz: number): boolean {
    return this.kept.has(`${soundId} ${sampleRateHz}`);
  }

  /**
   * @param soundId `soundIdOf` an asset
   * @param fileOf asked for sounds that are not kept
   * @throws KinetikonError file.broken, file.unsupported, file.empty, and what `fileOf` throws
   */
  async of(soundId: string, sampleRateHz: number, fileOf: FileOf): Promise<SharedSamples> {
    const key = `${soundId} ${sampleRateHz}`;
    const known = this.kept.get(key);
    if (known) {
      this.kept.delete(key);
      this.kept.set(key, known);
      return known;
    }
    const { assetId, heard } = assetOfSound(soundId);
    const { name, size, read } = await fileOf(assetId);
    const bytes = new Uint8Array(await read(0, size)).buffer;
    const task = { kind: 'decode' as const, bytes, name, sampleRateHz, heard };
    const { left, right, more } = await runJob(task);
    const decoded: SharedSamples = { assetId: soundId, left, right, ...(more ? { more } : {}) };
    this.kept.set(key, decoded);
    this.bytes += bytesOf(decoded);
    for (const [oldest, sound] of this.kept) {
      if (this.bytes <= this.mostBytes || oldest === key) break;
      this.kept.delete(oldest);
      this.bytes -= bytesOf(sound);
    }
    return decoded;
  }
}
