import { effectById } from '../effects/registry';
import { resolveValues } from '../effects/resolve';
import { sine } from '../../../test/support/render';
import { computeEchogram } from './echogram';
import { measureLevels } from './levels';
import { integratedLoudness } from './loudness';
import { computePeaks, PEAK_FRAMES } from './peaks';

describe('loudness', () => {
  // EBU Tech 3341 test signals 1 and 2, and the gating signal 3.
  it.each([
    [-23, 48000],
    [-33, 48000],
    [-23, 44100],
    [-23, 96000],
  ])('a stereo 1 kHz tone at %d dBFS reads that in LUFS at %d Hz', (level, rate) => {
    const tone = sine(1000, rate, rate * 20, 10 ** (level / 20));
    expect(Math.abs(integratedLoudness([tone, tone], rate) - level)).toBeLessThan(0.1);
  });

  it('leaves quiet passages out', () => {
    const rate = 48000;
    const part = (level: number, seconds: number) => [...sine(1000, rate, rate * seconds, 10 ** (level / 20))];
    const sound = Float32Array.from([...part(-36, 10), ...part(-23, 60), ...part(-36, 10)]);
    expect(Math.abs(integratedLoudness([sound, sound], rate) + 23)).toBeLessThan(0.1);
  });

  it('is minus infinity for silence and for less than a block', () => {
    expect(integratedLoudness([new Float32Array(48000)], 48000)).toBe(-Infinity);
    expect(integratedLoudness([sine(1000, 48000, 4800)], 48000)).toBe(-Infinity);
  });
});

describe('levels', () => {
  it('reads peaks, RMS, overs, correlation and what mono loses', () => {
    const left = sine(1000, 48000, 48000, 0.5);
    const same = measureLevels({ sampleRateHz: 48000, channels: [left, left] });
    expect(same.peakDb).toBeCloseTo(-6.02, 1);
    expect(same.rmsDb).toBeCloseTo(-9.03, 1);
    expect(same.correlation).toBeCloseTo(1, 9);
    expect(same.monoLossLu).toBeCloseTo(0, 9);
    const opposed = measureLevels({ sampleRateHz: 48000, channels: [left, left.map((x) => -x)] });
    expect(opposed.correlation).toBeCloseTo(-1, 9);
    expect(opposed.monoLossLu).toBeNull();
    const apart = measureLevels({ sampleRateHz: 48000, channels: [left, sine(1500, 48000, 48000, 0.5)] });
    expect(apart.correlation).toBeCloseTo(0, 6);
    expect(apart.monoLossLu).toBeCloseTo(3.01, 1);
    expect(measureLevels({ sampleRateHz: 48000, channels: [left.map((x) => x * 3)] }).overs).toBeGreaterThan(1000);
    expect(measureLevels({ sampleRateHz: 48000, channels: [new Float32Array(48000)] }).loudnessLufs).toBeNull();
  });

  it('finds the peak between samples', () => {
    const tone = Float32Array.from({ length: 4800 }, (_, n) => Math.sin((Math.PI / 2) * n + Math.PI / 4));
    const levels = measureLevels({ sampleRateHz: 48000, channels: [tone] });
    expect(levels.peakDb).toBeCloseTo(-3.01, 2);
    expect(Math.abs(levels.truePeakDb!)).toBeLessThan(0.4);
  });
});

describe('peaks', () => {
  it('holds the lowest and highest sample of each stretch', () => {
    const sound = new Float32Array(PEAK_FRAMES + 10);
    sound[3] = -0.496;
    sound[200] = 1;
    sound[PEAK_FRAMES + 9] = -1;
    expect([...computePeaks([sound])]).toEqual([-63, 127, -127, 0]);
  });
});

describe('echogram', () => {
  it('shows the repeats of a delay where the engine puts them', () => {
    const timing = { tempoBpm: 84, beatsPerBar: 3 };
    const values = {
      mix: 50,
      'lines.1.timeLeft': 250,
      'lines.1.timeRight': 400,
      'lines.1.linked': false,
      'lines.1.feedback': 50,
    };
    const chain = [
      { id: 'd', effect: 'delay', bypass: false, values: resolveValues(effectById('delay'), values, timing) },
    ];
    const echogram = computeEchogram(chain, 48000, 1, 1000)!;
    expect(echogram.dryLeft).toBeCloseTo(Math.SQRT1_2, 6);
    const bars = (side: Float32Array) => [...side].flatMap((level, slot) => (level > 1e-6 ? [[slot, level]] : []));
    expect(bars(echogram.left).map(([slot]) => slot)).toEqual([250, 500, 750]);
    expect(bars(echogram.right).map(([slot]) => slot)).toEqual([400, 800]);
    expect([echogram.leftSeconds[250], echogram.rightSeconds[400]]).toEqual([0.25, 0.4]);
    expect(echogram.left[500]).toBeCloseTo(Math.SQRT1_2 / 2, 6);
    expect(computeEchogram(chain, 48000, 2, 10, () => true)).toBeNull();
  });
});
