import { KinetikonError } from '../errors';
import { textFlaw } from '../text';

/** Deepest nesting of records and lists in any of our files and requests, with room to spare. */
const DEEPEST = 64;
/** Values in one text: a session of 200,000 points with all of its steps has about two million. */
const MOST_VALUES = 4_000_000;

const QUOTE = 34;
const BACKSLASH = 92;
const COMMA = 44;

const refusal = (message: string, cause?: unknown) =>
  new KinetikonError('request.invalid', message, { kept: 'Nothing was changed.', cause });

/** Counts depth and values of a JSON text while its parts arrive, before anything is built from it. */
class StructureMeter {
  private depth = 0;
  private values = 1;
  private inString = false;
  private escaped = false;

  /** @throws KinetikonError request.invalid past 64 levels or four million values */
  push(part: string): void {
    let { depth, values, inString, escaped } = this;
    for (let at = 0; at < part.length; at++) {
      const code = part.charCodeAt(at);
      if (escaped) escaped = false;
      else if (inString) {
        if (code === BACKSLASH) escaped = true;
        else if (code === QUOTE) inString = false;
      } else if (code === QUOTE) inString = true;
      else if (code === COMMA) values++;
      // Brackets and braces differ from each other by this bit alone.
      else if ((code & ~32) === 91) {
        values++;
        if (++depth > DEEPEST) throw refusal(`JSON may be nested ${DEEPEST} levels deep; this is deeper.`);
      } else if ((code & ~32) === 93) depth--;
    }
    if (values > MOST_VALUES) throw refusal(`JSON may hold ${MOST_VALUES} values; this holds more.`);
    Object.assign(this, { depth, values, inString, escaped });
  }
}

/** Reads JSON whose parts arrive one after another, bounded in bytes, depth and count before it is built. */
export class BoundedJsonReader {
  private readonly decoder = new TextDecoder('utf-8', { fatal: true });
  private readonly meter = new StructureMeter();
  private readonly parts: string[] = [];
  private bytes = 0;

  constructor(private readonly maximumBytes: number) {}

  /** @throws KinetikonError request.tooLarge, request.invalid */
  push(part: Uint8Array): void {
    this.bytes += part.length;
    if (this.bytes > this.maximumBytes) {
      throw new KinetikonError('request.tooLarge', `This is larger than ${this.maximumBytes} bytes.`, {
        kept: 'Nothing was changed.',
      });
    }
    this.take(this.decode(part));
  }

  /**
   * The value, once all parts are in.
   * @throws KinetikonError request.invalid, naming the part that cannot be stored
   */
  end(): unknown {
    this.take(this.decode());
    const text = this.parts.join('');
    let value: unknown;
    try {
      value = JSON.parse(text);
    } catch (error) {
      throw refusal('This is not JSON.', error);
    }
    // Only an escape can bring in a NUL or half a character.
    if (/\\u(0000|d[89a-f])/i.test(text)) refuseFlaws(value, '');
    return value;
  }

  private take(text: string): void {
    this.meter.push(text);
    this.parts.push(text);
  }

  private decode(part?: Uint8Array): string {
    try {
      return part ? this.decoder.decode(part, { stream: true }) : this.decoder.decode();
    } catch (error) {
      throw refusal('This is not text in UTF-8.', error);
    }
  }
}

/**
 * Reads a whole JSON text with the bounds of `BoundedJsonReader`.
 * @throws KinetikonError request.tooLarge, request.invalid
 */
export function readBoundedJson(text: string, maximumBytes: number): unknown {
  const reader = new BoundedJsonReader(maximumBytes);
  reader.push(new TextEncoder().encode(text));
  return reader.end();
}

function refuseFlaws(value: unknown, path: string): void {
  if (typeof value === 'string') {
    const flaw = textFlaw(value);
    if (flaw) throw refusal(`${path || 'The text'} holds ${flaw}.`);
  } else if (typeof value === 'object' && value !== null) {
    for (const [key, one] of Object.entries(value)) {
      const inside = path ? `${path}.${key}` : key;
      const flaw = textFlaw(key);
      if (flaw) throw refusal(`A name in ${path || 'the request'} holds ${flaw}.`);
      refuseFlaws(one, inside);
    }
  }
}
