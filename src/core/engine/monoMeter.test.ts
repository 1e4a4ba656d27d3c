import { sine } from '../../../test/support/render';
import { Noise } from '../dsp/noise';
import { Arena } from '../wasm/arena';
import { measureField } from '../analysis/stereoField';
import { ALL_LOST_DB, lossOf, MonoMeter } from './monoMeter';

const RATE = 48000;

function lost(left: Float32Array, right: Float32Array): number {
  const memory = new Arena();
  const meter = new MonoMeter(memory, RATE);
  const [blockLeft, blockRight] = [memory.floats(128), memory.floats(128)];
  for (let at = 0; at < left.length; at += 128) {
    blockLeft.set(left.subarray(at, at + 128));
    blockRight.set(right.subarray(at, at + 128));
    meter.process(blockLeft, blockRight, Math.min(128, left.length - at));
  }
  memory.free();
  return lossOf(meter.left);
}

describe('the meter of what mono loses', () => {
  it('reads what theory says: nothing, 3 dB, all, and nothing of what is only panned', () => {
    const tone = sine(300, RATE, 8 * RATE, 0.4);
    const [one, two] = [new Noise(1), new Noise(2)];
    const noises = [one, two].map((noise) => Float32Array.from({ length: 8 * RATE }, () => 0.2 * noise.white()));
    expect(lost(tone, tone)).toBeCloseTo(0, 6);
    expect(
      lost(
        tone,
        tone.map((x) => -x),
      ),
    ).toBe(ALL_LOST_DB);
    expect(lost(noises[0]!, noises[1]!)).toBeCloseTo(3.01, 1);
    expect(lost(tone, new Float32Array(tone.length))).toBeCloseTo(0, 6);
    expect(
      lost(
        noises[0]!,
        noises[0]!.map((x) => 0.3 * x),
      ),
    ).toBeCloseTo(0, 6);
    expect(
      lost(
        noises[0]!,
        noises[0]!.map((x) => -0.3 * x),
      ),
    ).toBeCloseTo(20 * Math.log10(1.3 / 0.7), 5);
    expect(lost(new Float32Array(RATE), new Float32Array(RATE))).toBe(0);
  });

  it('agrees with the field over the whole sound', () => {
    const [low, high] = [sine(300, RATE, 8 * RATE, 0.3), sine(2100, RATE, 8 * RATE, 0.4)];
    const left = low.map((x, n) => x + high[n]!);
    const right = low.map((x, n) => x - high[n]!);
    expect(Math.abs(lost(left, right) - measureField(left, right, RATE).monoLossDb!)).toBeLessThan(0.05);
  });
});
