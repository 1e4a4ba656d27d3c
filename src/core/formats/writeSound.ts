import { FlacWriter } from './flac';
import { joined } from './parts';
import type { Sound } from './sound';
import type { OutputFormatId } from './soundFormats';
import { writtenWhole, type SoundWriter } from './soundWriter';
import { WavWriter } from './wav';

/**
 * A writer for a format.
 * @param mostFrames frames that come at most
 */
export async function openWriter(
  sampleRateHz: number,
  channels: number,
  format: OutputFormatId,
  mostFrames: number,
): Promise<SoundWriter> {
  if (format === 'flac') return FlacWriter.open(sampleRateHz, channels, 24);
  const writer = new WavWriter(sampleRateHz, channels, format);
  const isLarge = writer.isLarge(mostFrames);
  let frames = 0;
  let isBegun = false;
  return {
    write: (part) => {
      const head = !isBegun ? writer.head(0, isLarge) : new Uint8Array();
      isBegun = true;
      frames += part[0]!.length;
      return joined(head, writer.body(part));
    },
    end: () => ({ rest: writer.end(frames), head: writer.head(frames, isLarge) }),
    free: () => {},
  };
}

/** The bytes of a sound file. */
export async function writeSound(sound: Sound, format: OutputFormatId): Promise<Uint8Array> {
  const { sampleRateHz, channels } = sound;
  return writtenWhole(await openWriter(sampleRateHz, channels.length, format, channels[0]!.length), sound);
}
