import { truePeakOf } from '../dsp/truePeak';
import { integratedLoudness } from './loudness';

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

/** Correlation and what mono loses are those of the first two channels; one channel counts as heard from both sides. */
export function measureLevels(sound: { sampleRateHz: number; channels: readonly Float32Array[] }): Levels {
  const { channels, sampleRateHz } = sound;
  const frames = channels[0]?.length ?? 0;
  let peak = 0;
  let truePeak = 0;
  let power = 0;
  let overs = 0;
  for (const channel of channels) {
    for (let i = 0; i < frames; i++) {
      const x = channel[i]!;
      const magnitude = Math.abs(x);
      if (magnitude > peak) peak = magnitude;
      if (magnitude > 1) overs++;
      power += x * x;
    }
    truePeak = Math.max(truePeak, truePeakOf(channel));
  }
  const [left, right] = [channels[0]!, channels[1]];
  const loudness = integratedLoudness(right ? channels : [left, left], sampleRateHz);
  let correlation: number | null = right ? null : peak > 0 ? 1 : null;
  let monoLoss: number | null = right ? null : peak > 0 ? 0 : null;
  if (right) {
    correlation = momentary(left!, right).correlation;
    const mono = left.map((x, i) => (x + right[i]!) / 2);
    const pair = channels.length === 2 ? loudness : integratedLoudness([left, right], sampleRateHz);
    monoLoss = orNull(pair - integratedLoudness([mono, mono], sampleRateHz));
  }
  return {
    seconds: frames / sampleRateHz,
    sampleRateHz,
    channels: channels.length,
    loudnessLufs: orNull(loudness),
    truePeakDb: db(truePeak),
    peakDb: db(peak),
    rmsDb: db(Math.sqrt(power / Math.max(1, frames * channels.length))),
    overs,
    correlation,
    monoLossLu: monoLoss,
  };
}
