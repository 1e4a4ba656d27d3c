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
} from '../../../../test/support/render';
import { delayTrack } from '../../../../test/support/pitch';
import { LFO_SHAPES } from '../../dsp/lowFrequencyOscillator';

const wetOnly = { mix: 100, 'lines.1.feedback': 0, 'lines.1.timeLeft': 20 };

describe('the swing of a delay', () => {
  it.each(RATES)('follows a sine of its depth within 2 %% at %d Hz, the right side ahead by its phase', (rate) => {
    const hz = 2000;
    const depth = 0.05;
    const values = { ...wetOnly, 'lines.1.modDepth': depth * 100, 'lines.1.modRate': 2, 'lines.1.modPhase': 90 };
    const out = run(kernelOf('delay', values, rate), sine(hz, rate, rate * 2, 0.5));
    for (const [side, phase] of [
      ['left', 0],
      ['right', Math.PI / 2],
    ] as const) {
      const track = delayTrack(out[side], hz, rate).filter(([at]) => at > rate / 2 && at < 1.5 * rate);
      const mean = track.reduce((sum, [, delay]) => sum + delay, 0) / track.length;
      for (const [at, delay] of track) {
        const expected = 0.02 * depth * Math.sin(2 * Math.PI * 2 * (at / rate) + phase);
        expect(Math.abs(delay - mean - expected)).toBeLessThan(0.02 * depth * 0.02);
      }
    }
  });

  it.each(LFO_SHAPES)('%s swings both ways without clicks', (shape) => {
    const rate = 48000;
    const hz = 500;
    const values = { ...wetOnly, 'lines.1.modDepth': 2, 'lines.1.modRate': 3, 'lines.1.modShape': shape };
    const out = run(kernelOf('delay', values), sine(hz, rate, rate * 2, 0.5)).left;
    const track = delayTrack(out, hz, rate).filter(([at]) => at > rate / 2);
    const delays = track.map(([, delay]) => delay);
    expect(Math.max(...delays) - Math.min(...delays)).toBeGreaterThan(0.02 * 0.02 * 0.5);
    expect(Math.max(...delays) - Math.min(...delays)).toBeLessThan(0.02 * 0.02 * 2.1);
    let steepest = 0;
    for (let n = rate / 2; n < out.length; n++) steepest = Math.max(steepest, Math.abs(out[n]! - out[n - 1]!));
    expect(steepest).toBeLessThan(0.08);
  });

  it('sounds the same from a place, wherever playback began', () => {
    const values = { ...wetOnly, 'lines.1.modDepth': 30, 'lines.1.modRate': 1.3, 'lines.1.modShape': 'smoothRandom' };
    const tone = sine(300, 48000, 96000, 0.5);
    const whole = run(kernelOf('delay', values), tone).left;
    const later = kernelOf('delay', values);
    later.locate(48000);
    const part = run(later, tone.slice(48000)).left;
    // Once the part has heard as much of the sound as the delay reaches back.
    for (let n = 4800; n < 40000; n += 97) expect(Math.abs(part[n]! - whole[48000 + n]!)).toBeLessThan(2e-3);
  });

  it('moves the cutoff by octaves', () => {
    const values = {
      ...wetOnly,
      'lines.1.filterType': 'lowPass',
      'lines.1.cutoff': 500,
      'lines.1.cutoffModDepth': 4,
      'lines.1.modRate': 1,
      'lines.1.modShape': 'square',
    };
    const out = run(kernelOf('delay', values), sine(4000, 48000, 96000, 0.5)).left;
    const open = db(amplitudeAt(out.slice(52000, 68000), 4000, 48000) / 0.5);
    const closed = db(amplitudeAt(out.slice(76000, 92000), 4000, 48000) / 0.5);
    // Open at 8 kHz a 4 kHz tone loses little; closed at 31 Hz it loses 84 dB.
    expect(open).toBeGreaterThan(-1);
    expect(closed).toBeLessThan(-75);
  });

  it('goes back to whole frames when the depth goes to nothing', () => {
    const kernel = kernelOf('delay', { ...wetOnly, 'lines.1.modDepth': 20, 'lines.1.timeLeft': 10.03 });
    run(kernel, new Float32Array(48000));
    setValue(kernel, 'delay', 'lines.1.modDepth', 0);
    run(kernel, new Float32Array(96000));
    const out = run(kernel, impulse(2000)).left;
    expect(out.indexOf(1)).toBe(Math.round(0.01003 * 48000));
  });
});

describe('the filter of a delay', () => {
  it.each([
    ['lowPass', '12', 4000, -24.1],
    ['lowPass', '24', 4000, -48.2],
    ['highPass', '12', 250, -24.1],
    ['highPass', '24', 250, -48.2],
  ])('%s with %s dB/oct falls as named two octaves out', (filterType, slope, hz, expected) => {
    const values = { ...wetOnly, 'lines.1.filterType': filterType, 'lines.1.slope': slope, 'lines.1.cutoff': 1000 };
    const out = run(kernelOf('delay', values), sine(hz, 48000, 48000, 0.5)).left;
    // The bilinear transform takes a low-pass a little further down.
    expect(Math.abs(db(amplitudeAt(out.slice(9600), hz, 48000) / 0.5) - expected)).toBeLessThan(2);
  });

  it('a notch takes its frequency out, a band-pass leaves it', () => {
    const at = (filterType: string) => {
      const values = { ...wetOnly, 'lines.1.filterType': filterType, 'lines.1.cutoff': 1000, 'lines.1.resonance': 2 };
      return db(
        amplitudeAt(run(kernelOf('delay', values), sine(1000, 48000, 96000, 0.5)).left.slice(48000), 1000, 48000) / 0.5,
      );
    };
    expect(at('notch')).toBeLessThan(-80);
    expect(Math.abs(at('bandPass'))).toBeLessThan(0.05);
  });

  it('comes before or after the drive as asked', () => {
    const third = (filterOrder: string) => {
      const values = {
        ...wetOnly,
        'lines.1.drive': 24,
        'lines.1.filterType': 'lowPass',
        'lines.1.slope': '24',
        'lines.1.cutoff': 1500,
        'lines.1.filterOrder': filterOrder,
      };
      const out = run(kernelOf('delay', values), sine(1000, 48000, 48000, 0.5)).left.slice(24000);
      return db(amplitudeAt(out, 3000, 48000) / amplitudeAt(out, 1000, 48000));
    };
    expect(third('before')).toBeGreaterThan(-25);
    expect(third('after')).toBeLessThan(-28);
  });
});

describe('the feedback of a delay', () => {
  it('turns over with every pass below zero, holds at 100 %, and grows no further above', () => {
    const passes = (feedback: number) => {
      const out = run(
        kernelOf('delay', { mix: 100, 'lines.1.timeLeft': 10, 'lines.1.feedback': feedback }),
        impulse(48000),
      ).left;
      return [1, 2, 3, 90].map((pass) => out[pass * 480]!);
    };
    expect(
      passes(-80)
        .slice(0, 3)
        .map((x) => Number(x.toFixed(4))),
    ).toEqual([1, -0.8, 0.64]);
    expect(passes(100)).toEqual([1, 1, 1, 1]);
    const beyond = passes(110);
    expect(beyond[1]).toBeGreaterThan(1);
    expect(beyond[3]).toBeLessThan(1.5);
  });

  it('dies away to exact silence in the end', () => {
    const kernel = kernelOf('delay', {
      mix: 100,
      'lines.1.timeLeft': 5,
      'lines.1.feedback': 50,
      'lines.1.filterType': 'lowPass',
    });
    run(kernel, impulse(48000));
    run(kernel, new Float32Array(48000 * 2));
    expect(largest(run(kernel, new Float32Array(4800)).left)).toBe(0);
  });
});
