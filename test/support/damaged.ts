import { SeededRandom } from '@/core/math/random';

/** A file with 1 to 8 flaws, always the same for a seed: bytes changed, taken out, doubled, moved, or the end cut off. */
export function damaged(file: Uint8Array, seed: number): Uint8Array<ArrayBuffer> {
  const random = new SeededRandom(seed);
  const below = (end: number) => Math.floor(random.uniform() * end);
  let bytes = Array.from(file);
  for (let flaw = 1 + below(8); flaw > 0 && bytes.length > 0; flaw--) {
    const at = below(bytes.length);
    const length = 1 + below(Math.min(64, bytes.length - at));
    switch (below(6)) {
      case 0:
        bytes[at] = below(256);
        break;
      case 1:
        bytes[at] = [0, 127, 128, 255][below(4)]!;
        break;
      case 2:
        for (let n = at; n < at + length; n++) bytes[n] = below(256);
        break;
      case 3:
        bytes.splice(at, length);
        break;
      case 4:
        bytes.splice(at, 0, ...bytes.slice(at, at + length));
        break;
      default:
        if (below(4) === 0) bytes = bytes.slice(0, at);
    }
  }
  return Uint8Array.from(bytes);
}
