import { TruePeakMeter } from '../dsp/truePeak';
import { PART_FRAMES } from '../formats/sound';
import { LoudnessMeter } from './loudness';

/** Levels of a sound as `measure` reports them, in dBFS; null for silence. */
export interface Levels {
  readonly seconds: number;
  readonly sampleRateHz: number;
  readonly channels: number;
  readonly loudnessLufs: number | null;
  readonly truePeakDb: number | null;
  readonly peakDb: number | null;
  readonly rmsDb: number | null;
  readonly overs: number;
  /** Mean of left times right over their power, -1 to 1; null when a side is silent. */
  readonly correlation: number | null;
  /** Loudness lost when both sides are averaged, in LU; null when there is nothing to lose. */
  readonly monoLossLu: number | null;
}

const orNull = (value: number) => (Number.isFinite(value) ? value : null);
const db = (gain: number) => orNull(20 * Math.log10(gain));

/** RMS in dBFS and correlation of a stretch of sound, in any order of frames; null for silence. */
export function momentary(left: Float32Array, right: Float32Array): Pick<Levels, 'rmsDb' | 'correlation'> {
  let [cross, powerLeft, powerRight] = [0, 0, 0];
  for (let i = 0; i < left.length; i++) {
    cross += left[i]! * right[i]!;
    powerLeft += left[i]! * left[i]!;
    powerRight += right[i]! * right[i]!;
  }
  return {
    rmsDb: db(Math.sqrt((powerLeft + powerRight) / (2 * left.length))),
    correlation: orNull(cross / Math.sqrt(powerLeft * powerRight)),
  };
}

/**
 * Measures the levels of a sound that comes part by part. Correlation and what mono loses are those of the first two
 * channels; one channel counts as heard from both sides.
 */
export class LevelMeter {
  private readonly truePeaks: readonly TruePeakMeter[];
  private readonly loudness: LoudnessMeter;
  /** Loudness of channels 1 and 2; null with fewer than three channels. */
  private readonly pair: LoudnessMeter | null;
  private readonly mono: LoudnessMeter | null;
  private frames = 0;
  private peak = 0;
  private overs = 0;
  private cross = 0;
  /** Sum of the squares of each channel. */
  private readonly powers: Float64Array;

  constructor(
    private readonly sampleRateHz: number,
    private readonly channels: number,
  ) {
    this.truePeaks = Array.from({ length: channels }, () => new TruePeakMeter());
    this.loudness = new LoudnessMeter(sampleRateHz, Math.max(2, channels));
    this.pair = channels > 2 ? new LoudnessMeter(sampleRateHz, 2) : null;
    this.mono = channels > 1 ? new LoudnessMeter(sampleRateHz, 2) : null;
    this.powers = new Float64Array(channels);
  }

  /** @param part the next frames, channel by channel */
  take(part: readonly Float32Array[]): void {
    const [left, right] = [part[0]!, part[1]];
    part.forEach((channel, n) => {
      let [{ peak, overs }, power] = [this, this.powers[n]!];
      for (let i = 0; i < channel.length; i++) {
        const x = channel[i]!;
        const magnitude = Math.abs(x);
        if (magnitude > peak) peak = magnitude;
        if (magnitude > 1) overs++;
        power += x * x;
      }
      this.peak = peak;
      this.overs = overs;
      this.powers[n] = power;
      this.truePeaks[n]!.take(channel);
    });
    this.loudness.take(right ? part : [left, left]);
    this.frames += left.length;
    if (!right) return;
    this.pair?.take([left, right]);
    const mono = left.map((x, i) => (x + right[i]!) / 2);
    this.mono!.take([mono, mono]);
    for (let i = 0; i < left.length; i++) this.cross += left[i]! * right[i]!;
  }

  /** Called once, behind the last part. */
  end(): Levels {
    const { frames, sampleRateHz, channels, peak, overs, powers } = this;
    const truePeak = Math.max(0, ...this.truePeaks.map((meter) => meter.end()));
    const power = powers.reduce((sum, one) => sum + one, 0);
    const loudness = this.loudness.integrated();
    const sides = this.mono ? this.bothSides(this.pair?.integrated() ?? loudness) : null;
    return {
      seconds: frames / sampleRateHz,
      sampleRateHz,
      channels,
      loudnessLufs: orNull(loudness),
      truePeakDb: db(truePeak),
      peakDb: db(peak),
      rmsDb: db(Math.sqrt(power / Math.max(1, frames * channels))),
      overs,
      correlation: sides ? sides.correlation : peak > 0 ? 1 : null,
      monoLossLu: sides ? sides.monoLossLu : peak > 0 ? 0 : null,
    };
  }

  /** @param pairLufs loudness of the first two channels */
  private bothSides(pairLufs: number): Pick<Levels, 'correlation' | 'monoLossLu'> {
    const { cross, powers, mono } = this;
    return {
      correlation: orNull(cross / Math.sqrt(powers[0]! * powers[1]!)),
      monoLossLu: orNull(pairLufs - mono!.integrated()),
    };
  }

  /** For who gives up before the end. */
  free(): void {
    for (const meter of this.truePeaks) meter.free();
  }
}

/** Levels of a sound that is there as a whole. */
export function measureLevels(sound: { sampleRateHz: number; channels: readonly Float32Array[] }): Levels {
  const { sampleRateHz, channels } = sound;
  const meter = new LevelMeter(sampleRateHz, channels.length);
  for (let at = 0; at < (channels[0]?.length ?? 0); at += PART_FRAMES) {
    meter.take(channels.map((channel) => channel.subarray(at, at + PART_FRAMES)));
  }
  return meter.end();
}
