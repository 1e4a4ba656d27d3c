import { drawn } from '../../../../test/support/sweep';
import {
  amplitudeAt,
  db,
  impulse,
  kernelOf,
  largest,
  RATES,
  run,
  setValue,
  sine,
  readMeter,
} from '../../../../test/support/render';
import { delayTrack, pitchTrack } from '../../../../test/support/pitch';
import { Noise } from '../../dsp/noise';

/** Level in dB of one frequency through an effect, against the input. */
function gainAt(
  values: Record<string, number | string | boolean>,
  hz: number,
  rate = 48000,
  side: 'left' | 'right' = 'left',
) {
  const tone = sine(hz, rate, rate / 2, 0.1);
  const out = run(kernelOf('flanger', values, rate), tone)[side].slice(rate / 4);
  return db(amplitudeAt(out, hz, rate) / 0.1);
}

/** The frequency of the lowest level between two, to a hundredth of a per cent. */
function notchBetween(values: Record<string, number | string | boolean>, low: number, high: number, rate: number) {
  let best = { hz: low, level: Infinity };
  let [from, to] = [low, high];
  for (let round = 0; round < 4; round++) {
    for (let i = 0; i <= 12; i++) {
      const hz = from + ((to - from) * i) / 12;
      const level = gainAt(values, hz, rate);
      if (level < best.level) best = { hz, level };
    }
    const reach = (to - from) / 12;
    [from, to] = [best.hz - reach, best.hz + reach];
  }
  return best;
}

describe('flanger', () => {
  it.each(drawn('rates of notches', RATES))(
    'has notches at odd multiples of 1 / (2 x delay), deeper than 40 dB, at %d Hz',
    (rate) => {
      for (const delay of [0.5, 1.23]) {
        const values = { delay, depth: 0, mix: 50 };
        const first = 1000 / (2 * delay);
        for (const multiple of [1, 3, 5]) {
          const found = notchBetween(values, first * (multiple - 0.3), first * (multiple + 0.3), rate);
          expect(Math.abs(found.hz / (first * multiple) - 1)).toBeLessThan(0.01);
          expect(found.level).toBeLessThan(-40);
        }
      }
    },
  );

  it('upside down has its notches where the peaks were', () => {
    const values = { delay: 1, depth: 0, mix: 50, wetPolarity: 'negative' };
    expect(gainAt(values, 1000)).toBeLessThan(-40);
    expect(gainAt(values, 500)).toBeGreaterThan(2.9);
  });

  it.each(RATES)(
    'sweeps the delay as its shape says, within 1 %%, the right side ahead within a degree, at %d Hz',
    (rate) => {
      const hz = 500;
      for (const shape of ['sine', 'triangle'] as const) {
        const values = { delay: 1, depth: 60, rate: 1, shape, stereoPhase: 90, mix: 100 };
        const out = run(kernelOf('flanger', values, rate), sine(hz, rate, 3 * rate, 0.5));
        const latency = kernelOf('flanger', values, rate).latencyFrames / rate;
        const course = (at: number, ahead: number) => {
          const phase = (((at / rate + ahead) % 1) + 1) % 1;
          if (shape === 'sine') return Math.sin(2 * Math.PI * phase);
          return phase < 0.25 ? 4 * phase : phase < 0.75 ? 2 - 4 * phase : 4 * phase - 4;
        };
        for (const [side, ahead] of [
          ['left', 0],
          ['right', 0.25],
        ] as const) {
          const track = delayTrack(out[side], hz, rate).filter(([at]) => at > rate / 2 && at < 2.5 * rate);
          // The first value is known but for whole periods of the tone.
          const wantedAt = (at: number) => latency + 0.001 * (1 + 0.6 * course(at, ahead));
          const turns = Math.round((wantedAt(track[0]![0]) - track[0]![1]) * hz) / hz;
          for (const [at, delay] of track) {
            const found = delay + turns;
            const wanted = wantedAt(at);
            // The measure looks through 16 ms; corners of the triangle are rounded by it.
            const corner = shape === 'triangle' && Math.abs(Math.abs(course(at, ahead)) - 1) < 0.08;
            if (!corner) expect(Math.abs(found - wanted)).toBeLessThan(0.001 * 0.6 * 2 * 0.01);
          }
        }
      }
    },
  );

  it('goes through zero: the copy comes before and after the dry sound, and meets it', () => {
    const rate = 48000;
    const values = { delay: 2, depth: 100, rate: 1, throughZero: true, stereoPhase: 0 };
    const kernel = kernelOf('flanger', { ...values, mix: 100 });
    const late = kernel.latencyFrames / rate;
    expect(late).toBeGreaterThan(0.05);
    const track = delayTrack(run(kernel, sine(200, rate, 2 * rate, 0.5)).left, 200, rate).filter(
      ([at]) => at > 0.3 * rate,
    );
    // The first value is known but for whole periods of the tone.
    const turns = Math.round((late - track[0]![1]) * 200) / 200;
    const against = track.map(([, delay]) => delay + turns - late);
    expect(Math.min(...against)).toBeCloseTo(-0.002, 4);
    expect(Math.max(...against)).toBeCloseTo(0.002, 4);
    const still = { ...values, depth: 0 };
    for (const hz of [200, 3000, 9000]) expect(Math.abs(gainAt({ ...still, mix: 50 }, hz) - 3.01)).toBeLessThan(0.1);
    const dry = run(kernelOf('flanger', { ...still, mix: 0 }), impulse(4000)).left;
    expect(dry.indexOf(1)).toBe(kernel.latencyFrames);
  });

  it('keeps the pitch deviation when the rate changes, if asked to', () => {
    const deviation = (rate: number, constantPitch: boolean) => {
      const values = { delay: 10, depth: 40, rate, constantPitch, mix: 100, stereoPhase: 0 };
      const out = run(kernelOf('flanger', values), sine(1000, 48000, 48000 * 5, 0.5)).left;
      const track = pitchTrack(out, 48000).filter(([at]) => at > 48000);
      return 1200 * Math.log2(Math.max(...track.map(([, hz]) => hz)) / 1000);
    };
    expect(Math.abs(deviation(1, true) - deviation(0.25, false))).toBeLessThan(0.5);
    expect(deviation(1, false)).toBeGreaterThan(3.5 * deviation(0.25, false));
  });

  it('holds the sweep where it is and goes on from there', () => {
    const rate = 48000;
    const kernel = kernelOf('flanger', { delay: 2, depth: 80, rate: 1, mix: 100, stereoPhase: 0 });
    const at = () => readMeter(kernel, 'flanger', 'delays')[0]!;
    run(kernel, new Float32Array(rate * 0.1));
    setValue(kernel, 'flanger', 'holdSweep', true);
    run(kernel, new Float32Array(64));
    const held = at();
    run(kernel, new Float32Array(rate));
    expect(at()).toBeCloseTo(held, 7);
    setValue(kernel, 'flanger', 'holdSweep', false);
    run(kernel, new Float32Array(rate * 0.05));
    expect(at() / 0.002).toBeCloseTo(1 + 0.8 * Math.sin(2 * Math.PI * 0.15), 1);
  });

  it('feedback makes peaks of 1 / (1 - g) at multiples of 1 / delay, and never runs away', () => {
    const values = { delay: 2, depth: 0, feedback: 80, mix: 100 };
    expect(Math.abs(gainAt(values, 500) - db(1 / 0.2))).toBeLessThan(0.2);
    expect(Math.abs(gainAt(values, 750) - db(1 / 1.8))).toBeLessThan(0.2);
    const noise = new Noise(3);
    const loud = Float32Array.from({ length: 48000 * 10 }, () => noise.white());
    const out = run(kernelOf('flanger', { feedback: 99, depth: 100, delay: 1, mix: 100 }), loud).left;
    expect(largest(out)).toBeLessThan(1.995);
  });

  it('filters the copy alone', () => {
    const values = { delay: 1, depth: 0, mix: 50, filterType: 'lowPass', cutoff: 1000 };
    expect(gainAt(values, 50)).toBeGreaterThan(2.5);
    expect(Math.abs(gainAt(values, 10500) - db(Math.SQRT1_2))).toBeLessThan(0.1);
  });
});
