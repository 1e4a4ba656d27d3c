import type { FileBytes } from '../fileBytes';
import type { FileSink } from '../fileSink';
import { openSound, soundPieces } from '../readSound';
import { HEAD_BYTES } from '../soundFormats';
import type { SoundWriter } from '../soundWriter';
import { openWriter } from '../writeSound';

/**
 * Writes a sound of which a place is only known by decoding all before it (MP3, Vorbis, Opus) as WAV of 32 bit floating
 * point: the same samples, in which any place can be read. The WAV is RF64, since nobody knows before how long it gets.
 * Yields the part that is done, 0 to 1.
 * @param name used in errors
 * @throws KinetikonError as `readSound`, and what reading and the sink throw
 */
export async function* unroll(file: FileBytes, name: string, sink: FileSink): AsyncGenerator<number, void> {
  const reader = openSound(await file.read(0, HEAD_BYTES), name);
  let writer: SoundWriter | null = null;
  let told = 0;
  try {
    const counted: FileBytes = {
      size: file.size,
      read: (from, to) => {
        told = Math.min(1, to / file.size);
        return file.read(from, to);
      },
    };
    for await (const piece of soundPieces(counted, reader)) {
      writer ??= await openWriter(reader.sampleRateHz, piece.length, '32f', Infinity);
      await sink.write(writer.write(piece));
      yield told;
    }
    const { rest, head } = writer!.end();
    await sink.write(rest);
    await sink.end(head);
  } finally {
    writer?.free();
    reader.free();
  }
}
