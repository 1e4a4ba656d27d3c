import type { FileBytes } from '../fileBytes';
import { EXTENSIBLE } from '../wav';
import { ownOrder } from '../speakers';
import { believed, textIn, type FileAbout, type SoundMark } from './about';
import { chunksIn, chunksOf, contentOf } from './chunks';

const viewOf = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);

/** Names of cue points by their number, in the list of associated data. */
function labelsIn(list: Uint8Array): Map<number, string> {
  const labels = new Map<number, string>();
  for (const { id, at, size } of chunksIn(list, 4)) {
    if (id !== 'labl' || at + 4 > list.length) continue;
    labels.set(viewOf(list).getUint32(at, true), textIn(list, at + 4, at + size));
  }
  return labels;
}

function cuePoints(cue: Uint8Array, labels: ReadonlyMap<number, string>, rateHz: number): SoundMark[] {
  const view = viewOf(cue);
  const count = Math.min(cue.length < 4 ? 0 : view.getUint32(0, true), Math.floor((cue.length - 4) / 24));
  return Array.from({ length: count }, (_, n) => {
    const at = 4 + 24 * n;
    const number = view.getUint32(at, true);
    return { seconds: view.getUint32(at + 20, true) / rateHz, name: labels.get(number) ?? '' };
  });
}

/**
 * Facts in the chunks of a WAV file: places of its speakers, the time reference and the date of `bext`, cue points with
 * their labels, title and date of `INFO`, tempo of `acid`.
 * Source: Multimedia Programming Interface and Data Specifications 1.0 (1991); EBU Tech 3285 (bext).
 */
export async function wavAbout(file: FileBytes): Promise<FileAbout | null> {
  const chunks = await chunksOf(file, true);
  const content = async (id: string, is: (bytes: Uint8Array) => boolean = () => true) => {
    for (const chunk of chunks) {
      if (chunk.id !== id) continue;
      const bytes = await contentOf(file, chunk);
      if (is(bytes)) return bytes;
    }
    return new Uint8Array();
  };
  const format = await content('fmt ');
  if (format.length < 16) return null;
  const channels = viewOf(format).getUint16(2, true);
  const rateHz = viewOf(format).getUint32(4, true);
  const isExtensible = viewOf(format).getUint16(0, true) === EXTENSIBLE && format.length >= 24;
  const mask = isExtensible ? viewOf(format).getUint32(20, true) : null;

  const bext = await content('bext');
  const hasTime = bext.length >= 346;
  const reference = hasTime ? viewOf(bext).getUint32(338, true) + viewOf(bext).getUint32(342, true) * 2 ** 32 : 0;
  const listOf = (type: string) => content('LIST', (bytes) => textIn(bytes, 0, 4) === type);
  const labels = labelsIn(await listOf('adtl'));
  const info = await listOf('INFO');
  const infoText = (id: string) => {
    const found = chunksIn(info, 4).find((one) => one.id === id);
    return found && textIn(info, found.at, found.at + found.size);
  };
  const acid = await content('acid');
  return {
    channels,
    // Six and eight channels without a mask lie in the order of the mask's bits; four may be anything.
    speakers: mask ?? (channels === 6 || channels === 8 ? ownOrder(channels) : null),
    told: believed({
      startSeconds: reference / rateHz,
      tempoBpm: acid.length >= 24 ? viewOf(acid).getFloat32(20, true) : undefined,
      title: infoText('INAM'),
      date: (hasTime ? textIn(bext, 320, 330) : '').replace(/\0/g, '').trim() || infoText('ICRD'),
      marks: cuePoints(await content('cue '), labels, rateHz),
    }),
  };
}
