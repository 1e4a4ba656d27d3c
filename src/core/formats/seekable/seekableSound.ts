/** A sound of which any stretch can be read without what lies before it. */
export interface SeekableSound {
  readonly sampleRateHz: number;
  readonly channels: number;
  readonly frames: number;
  /**
   * Frames `from` up to `to`, which lie within the sound, channel by channel: the same samples as a reading of the whole.
   * @throws KinetikonError file.broken
   */
  read(from: number, to: number): Promise<readonly Float32Array[]>;
  free(): void;
}
