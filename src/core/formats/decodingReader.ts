import { messageOf } from '../errors';
import { broken, checkPcm, empty } from './pcm';
import type { ContainerId } from './soundFormats';
import { NOTHING } from './parts';
import type { SoundReader } from './soundReader';

/** Result of one call of a decoder. */
interface Decoded {
  readonly channelData: readonly Float32Array[];
  readonly samplesDecoded: number;
  readonly sampleRate: number;
  readonly errors: readonly { readonly message: string }[];
}

/** Interface that the decoders share. */
export interface Decoder {
  readonly ready: Promise<void>;
  decode(bytes: Uint8Array): Decoded | Promise<Decoded>;
  flush?(): Promise<Decoded>;
  free(): void;
}

const SILENT: Decoded = { channelData: NOTHING, samplesDecoded: 0, sampleRate: 0, errors: [] };

/**
 * Reads compressed files by a decoder in WebAssembly, which is loaded when it is first needed. Derived readers cut off
 * the encoder's delay and padding.
 */
export abstract class DecodingReader implements SoundReader {
  abstract readonly format: ContainerId;
  readonly unusable = 0;
  channels = 0;
  sampleRateHz = 0;
  stated: number | null = null;
  protected frames = 0;
  private decoder: Decoder | null = null;

  constructor(protected readonly name: string) {}

  protected abstract load(): Promise<Decoder>;

  /** Looks at the bytes of the file before they are decoded. */
  protected abstract look(bytes: Uint8Array): void;

  /** Throws where the file says that there is more of it. */
  protected abstract checkLength(): void;

  /** Decoded frames without delay and padding, in the order of WAV's channels. */
  protected abstract own(channels: readonly Float32Array[], isLast: boolean): readonly Float32Array[];

  async push(bytes: Uint8Array): Promise<readonly Float32Array[]> {
    this.look(bytes);
    this.decoder ??= await this.load();
    await this.decoder.ready;
    return this.taken(await this.decoded((decoder) => decoder.decode(bytes)), false);
  }

  /** Calls the decoder; a trap inside it means a damaged file. */
  private async decoded(work: (decoder: Decoder) => Decoded | Promise<Decoded>): Promise<Decoded> {
    try {
      return await work(this.decoder!);
    } catch (error) {
      // After a trap its memory cannot be freed by itself; it is dropped as a whole.
      this.decoder = null;
      throw broken(this.name, `it is damaged (${messageOf(error)}).`);
    }
  }

  private taken(
    { channelData, samplesDecoded, sampleRate, errors }: Decoded,
    isLast: boolean,
  ): readonly Float32Array[] {
    if (errors[0]) throw broken(this.name, `it is damaged (${errors[0].message}).`);
    if (samplesDecoded > 0) this.sampleRateHz = sampleRate;
    const own = this.own(samplesDecoded > 0 ? channelData : NOTHING, isLast);
    if ((own[0]?.length ?? 0) === 0) return NOTHING;
    if (this.channels !== 0 && this.channels !== own.length)
      throw broken(this.name, `it changes from ${this.channels} to ${own.length} channels.`);
    this.channels = own.length;
    this.frames += own[0]!.length;
    return own;
  }

  async end(): Promise<readonly Float32Array[]> {
    return this.taken(await this.decoded((decoder) => decoder.flush?.() ?? SILENT), true);
  }

  check(): void {
    this.checkLength();
    if (this.frames === 0) throw empty(this.name);
    checkPcm(this.name, this.channels, this.sampleRateHz);
  }

  free(): void {
    this.decoder?.free();
  }
}
