import type { ContainerId } from './soundFormats';

/** Reads a sound file part by part, so that no more of it need be held than a part. */
export interface SoundReader {
  readonly format: ContainerId;
  /** In hertz; 0 until it is known. */
  readonly sampleRateHz: number;
  /** 0 until it is known. */
  readonly channels: number;
  /** Frames that the file says it holds; null where it does not say, or not yet. */
  readonly stated: number | null;
  /** Samples so far that were not numbers or lay above +120 dBFS, and are silence here. */
  readonly unusable: number;
  /**
   * @param bytes the next of the file, as many as there are
   * @returns the next frames, channel by channel; none of nothing
   * @throws KinetikonError file.broken, file.unsupported, as soon as it shows
   */
  push(bytes: Uint8Array): Promise<readonly Float32Array[]>;
  /**
   * Called once all bytes have been pushed.
   * @returns the last frames
   */
  end(): Promise<readonly Float32Array[]>;
  /**
   * Called after the end.
   * @throws KinetikonError file.broken for a file that is cut short, file.empty
   */
  check(): void;
  free(): void;
}
