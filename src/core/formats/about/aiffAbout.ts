import type { FileBytes } from '../fileBytes';
import { extended } from '../aiff';
import { believed, textIn, type FileAbout, type SoundMark } from './about';
import { chunksOf, contentOf } from './chunks';

function markersIn(bytes: Uint8Array, rateHz: number): SoundMark[] {
  if (bytes.length < 2) return [];
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const marks: SoundMark[] = [];
  for (let at = 2, left = view.getUint16(0); left > 0 && at + 7 <= bytes.length; left--) {
    const length = bytes[at + 6]!;
    marks.push({ seconds: view.getUint32(at + 2) / rateHz, name: textIn(bytes, at + 7, at + 7 + length) });
    // A name takes an even number of bytes, its length counted in.
    at += 6 + 1 + length + ((length + 1) & 1);
  }
  return marks;
}

/** Channels, markers and name of an AIFF file. Source: Audio Interchange File Format 1.3 (1989). */
export async function aiffAbout(file: FileBytes): Promise<FileAbout | null> {
  const chunks = await chunksOf(file, false);
  const content = async (id: string) => {
    const found = chunks.find((chunk) => chunk.id === id);
    return found ? contentOf(file, found) : new Uint8Array();
  };
  const common = await content('COMM');
  if (common.length < 18) return null;
  const view = new DataView(common.buffer, common.byteOffset, common.byteLength);
  const channels = view.getUint16(0);
  const name = await content('NAME');
  return {
    channels,
    // Four channels are quad or left, centre, right and surround: the format leaves it open.
    speakers: null,
    told: believed({ title: textIn(name), marks: markersIn(await content('MARK'), extended(view, 8)) }),
  };
}
