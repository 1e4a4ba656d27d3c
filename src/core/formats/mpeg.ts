import { unsupported } from './pcm';

/** Samples by which a decoder of layer III comes late: 528 of its filter bank, and one. */
export const OWN_DELAY = 529;

/** Facts in the first frame of an MP3 file. */
export interface MpegHead {
  readonly isMono: boolean;
  /** The delay and the padding of its encoder are known. */
  readonly isGapless: boolean;
  /** Frames of sound in the file, without those; null where it does not tell. */
  readonly frames: number | null;
}

/** A number of four bytes, each of which holds seven bits (ID3v2.4, section 6.2). */
export const sevens = (bytes: Uint8Array, at: number): number =>
  [0, 1, 2, 3].reduce((sum, n) => sum * 128 + (bytes[at + n]! & 127), 0);

/** Place of the first frame: behind an ID3 tag, if there is one (ID3v2.4, section 3.1). */
export function firstFrame(bytes: Uint8Array): number {
  if (String.fromCharCode(...bytes.subarray(0, 3)) !== 'ID3') return 0;
  return 10 + sevens(bytes, 6) + ((bytes[5]! & 16) === 0 ? 0 : 10);
}

/** True if a frame of layer III can begin here. */
export function isMp3Frame(bytes: Uint8Array, at = 0): boolean {
  const [sync, kind, rates] = [bytes[at]!, bytes[at + 1]!, bytes[at + 2]!];
  const version = (kind >> 3) & 3;
  const layer = (kind >> 1) & 3;
  return sync === 255 && kind >= 224 && version !== 1 && layer === 1 && rates >> 4 !== 15 && ((rates >> 2) & 3) !== 3;
}

/**
 * Reads the first frame, which in most files holds no sound but tells how much there is (the Xing or Info header, with the
 * encoder's delay and padding behind it).
 * @param bytes the beginning of the file
 * @returns null if the first frame has not come yet
 * @throws KinetikonError file.unsupported for other MPEG audio
 */
export function mpegHead(bytes: Uint8Array, name: string): MpegHead | null {
  if (bytes.length < 10) return null;
  const at = firstFrame(bytes);
  if (bytes.length < at + 200) return null;
  if (!isMp3Frame(bytes, at)) throw unsupported(name, 'holds MPEG audio other than MP3');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const isFirstVersion = ((bytes[at + 1]! >> 3) & 3) === 3;
  const isMono = bytes[at + 3]! >> 6 === 3;
  const side = isFirstVersion ? (isMono ? 17 : 32) : isMono ? 9 : 17;
  const tag = at + 4 + side;
  const none = { isMono, isGapless: false, frames: null };
  if (!['Xing', 'Info'].includes(String.fromCharCode(...bytes.subarray(tag, tag + 4)))) return none;
  const flags = view.getUint32(tag + 4);
  const hasFrames = (flags & 1) !== 0;
  const behind = tag + 8 + (hasFrames ? 4 : 0) + (flags & 2 ? 4 : 0) + (flags & 4 ? 100 : 0) + (flags & 8 ? 4 : 0);
  const length = (bytes[behind + 21]! << 16) | (bytes[behind + 22]! << 8) | bytes[behind + 23]!;
  const isGapless = /^L(AME|avc|avf)/.test(String.fromCharCode(...bytes.subarray(behind, behind + 4)));
  if (!hasFrames) return { ...none, isGapless };
  const whole = view.getUint32(tag + 8) * (isFirstVersion ? 1152 : 576);
  return { isMono, isGapless, frames: isGapless ? whole - (length >> 12) - (length & 4095) : null };
}
