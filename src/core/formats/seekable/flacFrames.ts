/** What the head of a FLAC frame tells. */
export interface FrameHead {
  /** Place of the frame's first sample in the sound. */
  readonly first: number;
  /** Samples a channel. */
  readonly frames: number;
}

/** Longest head: sync, codes, a coded number of 7 bytes, sizes, a checksum. */
export const LONGEST_FRAME_HEAD = 16;

const CRC8 = Uint8Array.from({ length: 256 }, (_, n) => {
  let crc = n;
  for (let bit = 0; bit < 8; bit++) crc = (crc << 1) ^ (crc & 128 ? 0x107 : 0);
  return crc & 255;
});

/** A number coded as UTF-8 codes letters, up to 36 bits, and the place behind it; null where there is none. */
function codedNumber(bytes: Uint8Array, at: number): { value: number; end: number } | null {
  const first = bytes[at] ?? 255;
  if (first < 128) return { value: first, end: at + 1 };
  let more = 0;
  while (more < 7 && first & (64 >> more)) more++;
  if (more < 1 || more > 6) return null;
  let value = more === 6 ? 0 : first & (63 >> more);
  for (let n = 1; n <= more; n++) {
    const next = bytes[at + n] ?? 255;
    if ((next & 192) !== 128) return null;
    value = value * 64 + (next & 63);
  }
  return { value, end: at + more + 1 };
}

/**
 * Reads the head of a frame, with its checksum. Source: RFC 9639, section 9.1.
 * @param at where it may begin
 * @param blockFrames samples of the frames of a file in which all are equally long
 * @returns null where no frame begins
 */
export function frameHead(bytes: Uint8Array, at: number, blockFrames: number): FrameHead | null {
  if (bytes[at] !== 255 || (bytes[at + 1]! & 254) !== 248) return null;
  const isVariable = (bytes[at + 1]! & 1) === 1;
  const sizes = bytes[at + 2]!;
  const layout = bytes[at + 3]!;
  if (sizes >> 4 === 0 || (sizes & 15) === 15 || layout >> 4 > 10 || (layout & 1) === 1) return null;
  const number = codedNumber(bytes, at + 4);
  if (!number) return null;
  let { end } = number;
  const code = sizes >> 4;
  let frames = code === 1 ? 192 : code <= 5 ? 576 << (code - 2) : 256 << (code - 8);
  if (code === 6) frames = bytes[end++]! + 1;
  if (code === 7) {
    frames = ((bytes[end]! << 8) | bytes[end + 1]!) + 1;
    end += 2;
  }
  const rate = sizes & 15;
  end += rate === 12 ? 1 : rate > 12 ? 2 : 0;
  if (end >= bytes.length) return null;
  let crc = 0;
  for (let n = at; n < end; n++) crc = CRC8[crc ^ bytes[n]!]!;
  if (crc !== bytes[end]) return null;
  return { first: isVariable ? number.value : number.value * blockFrames, frames };
}
