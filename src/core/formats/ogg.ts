import { broken, unsupported } from './pcm';
import { joined } from './parts';

const PAGE_HEAD = 27;

/** The codec of an Ogg file by its first page. Source: RFC 3533, section 6; RFC 5334. */
export function oggCodec(bytes: Uint8Array): 'vorbis' | 'opus' | 'flac' | null {
  const packet = PAGE_HEAD + (bytes[26] ?? 0);
  const text = String.fromCharCode(...bytes.subarray(packet, packet + 8));
  if (text === 'OpusHead') return 'opus';
  if (text.startsWith('\x01vorbis')) return 'vorbis';
  return text.startsWith('\x7fFLAC') ? 'flac' : null;
}

/** Follows the pages of an Ogg file: how far its sound goes, and whether it is whole. Source: RFC 3533, section 6. */
export class OggPages {
  /** Position of the end of the last page, in samples at the codec's own rate. */
  granule = 0;
  /** The last page has come. */
  isWhole = false;
  private serial: number | null = null;
  private rest: Uint8Array = new Uint8Array();
  /** Bytes of a page that are still to come. */
  private ahead = 0;

  constructor(private readonly name: string) {}

  /** @throws KinetikonError file.broken, file.unsupported for more than one stream */
  push(bytes: Uint8Array): void {
    const skipped = Math.min(this.ahead, bytes.length);
    this.ahead -= skipped;
    this.rest = joined(this.rest, bytes.subarray(skipped));
    while (this.ahead === 0 && this.rest.length >= PAGE_HEAD) {
      const page = this.rest;
      const segments = page[26]!;
      if (String.fromCharCode(...page.subarray(0, 4)) !== 'OggS')
        throw broken(this.name, 'it is damaged between two pages.');
      if (page.length < PAGE_HEAD + segments) return;
      this.take(new DataView(page.buffer, page.byteOffset, PAGE_HEAD));
      const body = page.subarray(PAGE_HEAD, PAGE_HEAD + segments).reduce((sum, one) => sum + one, 0);
      const whole = PAGE_HEAD + segments + body;
      this.ahead = Math.max(0, whole - page.length);
      this.rest = page.slice(whole);
    }
  }

  private take(head: DataView): void {
    const serial = head.getUint32(14, true);
    this.serial ??= serial;
    if (serial !== this.serial) throw unsupported(this.name, 'holds more than one stream');
    const [low, high] = [head.getUint32(6, true), head.getUint32(10, true)];
    // A page on which no packet ends has no position.
    if (low !== 0xffffffff || high !== 0xffffffff) this.granule = high * 2 ** 32 + low;
    if ((head.getUint8(5) & 4) !== 0) this.isWhole = true;
  }

  /** @throws KinetikonError file.broken for a file that is cut short */
  end(): void {
    if (!this.isWhole || this.ahead > 0) throw broken(this.name, 'its last page is missing; the file was cut short.');
  }
}
