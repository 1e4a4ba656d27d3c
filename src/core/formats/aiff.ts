import { broken, checkPcm, sampleReader, unsupported, type PcmLayout, type SampleKind } from './pcm';

/** Number format, byte order and bits by the compression type of AIFF-C; plain AIFF counts as NONE. */
const KINDS: Readonly<Record<string, readonly [kind: SampleKind, littleEndian: boolean, bits?: number]>> = {
  NONE: ['signed', false],
  twos: ['signed', false],
  sowt: ['signed', true],
  in24: ['signed', false, 24],
  in32: ['signed', false, 32],
  '42ni': ['signed', true, 24],
  '23ni': ['signed', true, 32],
  'raw ': ['unsigned', false],
  fl32: ['float', false, 32],
  FL32: ['float', false, 32],
  fl64: ['float', false, 64],
  FL64: ['float', false, 64],
};

/** Compression types that are refused, by their own names. */
const NAMES: Readonly<Record<string, string>> = {
  ulaw: 'mu-law',
  ULAW: 'mu-law',
  alaw: 'A-law',
  ALAW: 'A-law',
  ima4: 'IMA ADPCM',
};

/** An extended (80 bit) number: a sign, 15 bits of exponent, 64 of mantissa with its leading one. */
export function extended(view: DataView, at: number): number {
  const exponent = (view.getUint16(at) & 0x7fff) - 16383 - 63;
  return (view.getUint32(at + 2) * 2 ** 32 + view.getUint32(at + 6)) * 2 ** exponent;
}

/**
 * Finds the samples of an AIFF or AIFF-C file: 8, 16, 24 and 32 bit integers in both byte orders, 32 and 64 bit floating
 * point.
 * Source: Audio Interchange File Format 1.3 (1989); AIFF-C, draft of 1991.
 * @param bytes the file, or as much of its beginning as there is
 * @returns null when the samples have not begun yet
 * @throws KinetikonError file.broken, file.unsupported
 */
export function aiffLayout(bytes: Uint8Array, name: string): PcmLayout | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const tag = (at: number) => String.fromCharCode(...bytes.subarray(at, at + 4));
  if (bytes.length < 12) return null;
  let format: Omit<PcmLayout, 'start' | 'size'> | null = null;
  for (let at = 12; at + 8 <= bytes.length;) {
    const id = tag(at);
    const size = view.getUint32(at + 4);
    const start = at + 8;
    if (id === 'COMM') {
      if (size < 18 || (tag(8) === 'AIFC' && size < 22)) throw broken(name, 'its format chunk is cut short.');
      if (start + size > bytes.length) return null;
      const channels = view.getUint16(start);
      const bits = view.getUint16(start + 6);
      const sampleRateHz = extended(view, start + 8);
      const type = tag(8) === 'AIFC' ? tag(start + 18) : 'NONE';
      const [kind, littleEndian, fixed] = KINDS[type] ?? [];
      const sampleBits = fixed ?? 8 * Math.ceil(bits / 8);
      const sampleAt = kind && sampleReader(kind, sampleBits, littleEndian!);
      checkPcm(name, channels, sampleRateHz);
      if (!sampleAt)
        throw unsupported(name, `holds ${NAMES[type] ?? `a kind of AIFF that is not read (${type}, ${bits} bits)`}`);
      const sampleBytes = sampleBits / 8;
      format = { sampleRateHz, channels, sampleBytes, frameBytes: channels * sampleBytes, sampleAt };
    } else if (id === 'SSND') {
      if (!format) throw broken(name, 'its samples stand before what tells how to read them.');
      if (start + 8 > bytes.length) return null;
      const offset = view.getUint32(start);
      if (size < 8 + offset) throw broken(name, 'its sound chunk is cut short.');
      return { ...format, start: start + 8 + offset, size: size - 8 - offset };
    }
    at = start + size + (size & 1);
  }
  return null;
}
