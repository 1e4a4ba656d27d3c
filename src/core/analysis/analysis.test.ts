import { effectById } from '../effects/registry';
import { resolveValues } from '../effects/resolve';
import type { ParameterValues } from '../effects/spec';
import { sine } from '../../../test/support/render';
import { finished } from '../math/steps';
import { chainEchogram, lineEchograms, type Echogram } from './echogram';
import { measureLevels } from './levels';
import { integratedLoudness, momentaryLoudness } from './loudness';
import { computePeaks, PEAK_FRAMES } from './peaks';

describe('loudness', () => {
  it('of silence is none', () => {
    expect(momentaryLoudness([new Float32Array(9600), new Float32Array(9600)], 48000)).toBe(-Infinity);
  });

  // EBU Tech 3341 test signals 1 and 2, and the gating signal 3.
  it.each([
    [-23, 48000],
    [-33, 48000],
    [-23, 44100],
    [-23, 96000],
  ])('a stereo 1 kHz tone at %d dBFS reads that in LUFS at %d Hz', (level, rate) => {
    const tone = sine(1000, rate, rate * 20, 10 ** (level / 20));
    expect(Math.abs(integratedLoudness([tone, tone], rate) - level)).toBeLessThan(0.1);
    const piece = tone.slice(0, Math.round(0.34 * rate));
    expect(Math.abs(momentaryLoudness([piece, piece], rate) - level)).toBeLessThan(0.1);
    expect(Math.abs(momentaryLoudness([piece, new Float32Array(piece.length)], rate) - (level - 3.01))).toBeLessThan(
      0.1,
    );
  });

  it('leaves quiet passages out', () => {
    const rate = 48000;
    const part = (level: number, seconds: number) => [...sine(1000, rate, rate * seconds, 10 ** (level / 20))];
    const sound = Float32Array.from([...part(-36, 10), ...part(-23, 60), ...part(-36, 10)]);
    expect(Math.abs(integratedLoudness([sound, sound], rate) + 23)).toBeLessThan(0.1);
  });

  it('weighs five channels as EBU Tech 3341, case 6, does, and leaves the low-frequency one out', () => {
    const rate = 48000;
    const at = (level: number) => sine(1000, rate, rate * 20, 10 ** (level / 20));
    const five = [at(-28), at(-28), at(-24), at(-30), at(-30)];
    expect(Math.abs(integratedLoudness(five, rate) + 23)).toBeLessThan(0.1);
    expect(Math.abs(measureLevels({ sampleRateHz: rate, channels: five }).loudnessLufs! + 23)).toBeLessThan(0.1);
    const six = [...five.slice(0, 3), at(-3), ...five.slice(3)];
    expect(Math.abs(integratedLoudness(six, rate) + 23)).toBeLessThan(0.1);
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

const bars = (side: Float32Array) => [...side].flatMap((level, slot) => (level > 1e-6 ? [[slot, level] as const] : []));

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
    const [echogram] = finished(chainEchogram(chain, 48000, 1, 1000)) as [Echogram];
    expect(echogram.dryLeft).toBeCloseTo(Math.SQRT1_2, 6);
    expect(bars(echogram.left).map(([slot]) => slot)).toEqual([250, 500, 750]);
    expect(bars(echogram.right).map(([slot]) => slot)).toEqual([400, 800]);
    expect([echogram.leftSeconds[250], echogram.rightSeconds[400]]).toEqual([0.25, 0.4]);
    expect(echogram.left[500]).toBeCloseTo(Math.SQRT1_2 / 2, 6);
  });

  it('lasts as long as the effect, so that short ones are drawn finely', () => {
    const timing = { tempoBpm: 84, beatsPerBar: 3 };
    const values = resolveValues(effectById('flanger'), { delay: 2, depth: 0, feedback: 30, mix: 50 }, timing);
    const chain = [{ id: 'f', effect: 'flanger', bypass: false, values }];
    const [echogram] = finished(chainEchogram(chain, 48000, 17, 4000)) as [Echogram];
    expect(echogram.seconds).toBeLessThan(0.5);
    const found = bars(echogram.left).filter(([, level]) => level > 0.05);
    expect(found.map(([slot]) => Math.round(echogram.leftSeconds[slot]! * 48000))).toEqual([96, 192, 288]);
    const [short] = finished(chainEchogram(chain, 48000, 0.003, 40)) as [Echogram];
    expect(short.seconds).toBe(0.003);
  });

  it('tells the lines of a delay apart, in one go, as they are heard', () => {
    const timing = { tempoBpm: 84, beatsPerBar: 3 };
    const values = {
      mix: 50,
      routing: 'series',
      'lines.1.timeLeft': 100,
      'lines.1.feedback': 0,
      'lines.1.level': -6,
      'lines.3.on': true,
      'lines.3.timeLeft': 50,
      'lines.3.feedback': 50,
      'lines.3.pan': 100,
      'lines.4.on': true,
      'lines.4.timeLeft': 300,
      'lines.4.feedback': 0,
      'lines.4.mute': true,
    };
    const insertOf = (more: ParameterValues) => ({
      id: 'd',
      effect: 'delay',
      bypass: false,
      values: resolveValues(effectById('delay'), { ...values, ...more }, timing),
    });
    const [whole, ...found] = finished(lineEchograms(insertOf({}), 48000, 0.5, 500));
    expect(whole).toEqual(finished(chainEchogram([insertOf({})], 48000, 0.5, 500))[0]);
    expect(found.map(({ left }) => bars(left).map(([slot]) => slot))).toEqual([[100], [], []]);
    expect(found.map(({ right }) => bars(right).map(([slot]) => slot))).toEqual([
      [100],
      [150, 200, 250, 300, 350, 400, 450],
      [],
    ]);
    expect(found[0]!.left[100]).toBeCloseTo(10 ** (-6 / 20) * Math.SQRT1_2, 5);
    expect(found[1]!.right[200]).toBeCloseTo(0.5 * Math.SQRT1_2, 5);
    for (const one of found) expect(one.dryLeft).toBeCloseTo(Math.SQRT1_2, 6);

    // With the limiter, late by its latency and lowering the loud, the shares still add up to what the engine puts out.
    const limited = insertOf({ safety: true, safetyCeiling: -6 });
    const [, ...shares] = finished(lineEchograms(limited, 48000, 0.5, 500));
    const [sum] = finished(chainEchogram([limited], 48000, 0.5, 500)) as [Echogram];
    expect(bars(sum.right).map(([slot]) => slot)).toEqual([100, 150, 200, 250, 300, 350, 400, 450]);
    expect(sum.right[150]).toBeLessThan(0.505);
    for (const [slot, level] of bars(sum.right))
      expect(shares.reduce((all, one) => all + one.right[slot]!, 0)).toBeCloseTo(level, 5);
  });

  it('is nothing for an effect without lines to ask for them', () => {
    const values = resolveValues(effectById('utility'), {}, { tempoBpm: 84, beatsPerBar: 3 });
    expect(() => finished(lineEchograms({ id: 'u', effect: 'utility', bypass: false, values }, 48000, 1, 10))).toThrow(
      'utility has no lines',
    );
  });
});
