import {
  amplitudeAt,
  db,
  firstDifference,
  impulse,
  kernelOf,
  largest,
  largestBend,
  RATES,
  run,
  setValue,
  sine,
} from '../../../../test/support/render';
import { pitchTrack } from '../../../../test/support/pitch';
import { SeededRandom } from '../../math/random';

const wetOnly = { mix: 100, 'lines.1.feedback': 0 };

function noise(length: number, amplitude = 0.5): Float32Array {
  const random = new SeededRandom(9);
  return Float32Array.from({ length }, () => amplitude * random.bipolar());
}

describe('delay', () => {
  it('puts an impulse through 1/8 dotted at 84 BPM on frame 25714 at 48 kHz, at 0 dB', () => {
    const out = run(kernelOf('delay', { ...wetOnly, 'lines.1.timeLeft': '1/8d' }), impulse(48000));
    expect(out.left.findIndex((x) => x !== 0)).toBe(25714);
    expect(out.left[25714]).toBe(1);
    expect(out.right[25714]).toBe(1);
    expect(out.left.filter((x) => x !== 0)).toHaveLength(1);
  });

  it.each(RATES)('repeats fall by exactly the feedback and land on whole frames at %d Hz', (rate) => {
    for (const ms of [0.1, 1, 7.3, 123.456]) {
      const kernel = kernelOf('delay', { mix: 100, 'lines.1.timeLeft': ms, 'lines.1.feedback': -50 }, rate);
      const out = run(kernel, impulse(rate));
      const frames = Math.round((ms / 1000) * rate);
      for (let pass = 1; pass <= 6; pass++) expect(out.left[pass * frames]).toBeCloseTo((-0.5) ** (pass - 1), 7);
      expect(out.left.slice(0, 6 * frames).filter((x) => Math.abs(x) > 1e-9)).toHaveLength(5);
    }
  });

  it('mixes at equal power: the input bit for bit at 0 %, no dry bit at 100 %', () => {
    const sound = noise(20000);
    expect(firstDifference(run(kernelOf('delay', { mix: 0, 'lines.1.feedback': 80 }), sound).left, sound)).toBe(-1);
    const wet = run(kernelOf('delay', { mix: 100, 'lines.1.timeLeft': 100 }), sound).left;
    expect(wet.slice(0, 4800).every((x) => x === 0)).toBe(true);
    const half = run(kernelOf('delay', { mix: 50, 'lines.1.timeLeft': 10, 'lines.1.feedback': 0 }), impulse(1000)).left;
    expect(half[0]).toBeCloseTo(Math.SQRT1_2, 7);
    expect(half[480]).toBeCloseTo(Math.SQRT1_2, 7);
  });

  it('does not depend on how the input is cut into blocks, with everything moving', () => {
    const values = {
      mix: 60,
      'lines.1.timeLeft': 3.1,
      'lines.1.feedback': 70,
      'lines.1.modDepth': 40,
      'lines.1.modRate': 5,
      'lines.1.modShape': 'steppedRandom',
      'lines.1.filterType': 'bandPass',
      'lines.1.slope': '24',
      'lines.1.cutoffModDepth': 2,
      'lines.1.drive': 12,
      'lines.1.swap': true,
    };
    const sound = noise(30000);
    const whole = run(
      kernelOf('delay', values),
      sound,
      sound.map((x) => -0.3 * x),
    );
    const cut = run(
      kernelOf('delay', values),
      sound,
      sound.map((x) => -0.3 * x),
      [1, 128, 17, 64, 5, 100],
    );
    expect(firstDifference(cut.left, whole.left)).toBe(-1);
    expect(firstDifference(cut.right, whole.right)).toBe(-1);
    expect(largest(whole.left)).toBeGreaterThan(0.05);
  });

  it('does not depend on the blocks either when it rests, is changed, and rests again', () => {
    const sound = noise(40000);
    const play = (sizes: number[]) => {
      const kernel = kernelOf('delay', {
        mix: 60,
        'lines.1.timeLeft': 12,
        'lines.1.filterType': 'lowPass',
        'lines.1.modRate': 7,
      });
      let changed = 0;
      return run(kernel, sound, undefined, sizes, (frame) => {
        // All sizes below meet at these frames.
        if (frame === 12800 && changed++ === 0) setValue(kernel, 'delay', 'lines.1.modDepth', 20);
        if (frame === 25600) setValue(kernel, 'delay', 'lines.1.modDepth', 0);
      }).left;
    };
    const whole = play([128]);
    expect(firstDifference(play([1]), whole)).toBe(-1);
    expect(firstDifference(play([100, 28]), whole)).toBe(-1);
    expect(firstDifference(play([33, 95]), whole)).toBe(-1);
  });

  it('bounces from side to side with swap and one input side', () => {
    const kernel = kernelOf('delay', {
      mix: 100,
      'lines.1.timeLeft': 10,
      'lines.1.feedback': 50,
      'lines.1.swap': true,
      'lines.1.inputSide': 'left',
    });
    const out = run(kernel, impulse(2400));
    expect([out.left[480], out.right[480]]).toEqual([1, 0]);
    expect([out.left[960], out.right[960]]).toEqual([0, 0.5]);
    expect([out.left[1440], out.right[1440]]).toEqual([0.25, 0]);
  });

  it('gives each side its own time when unlinked, level and pan at the output, silence when muted', () => {
    const values = { ...wetOnly, 'lines.1.linked': false, 'lines.1.timeLeft': 10, 'lines.1.timeRight': 20 };
    const out = run(kernelOf('delay', { ...values, 'lines.1.level': -6, 'lines.1.pan': 100 }), impulse(2000));
    expect(largest(out.left)).toBe(0);
    expect(out.right[960]).toBeCloseTo(0.5012, 4);
    expect(largest(run(kernelOf('delay', { ...values, 'lines.1.mute': true }), impulse(2000)).left)).toBe(0);
  });

  it.each([
    ['both', [0, -12.3, -24.6]],
    ['loop', [0, 0, -12.3]],
    ['heard', [0, -12.3, -12.3]],
  ] as const)('filters on %s as named', (place, [, first, second]) => {
    const kernel = kernelOf('delay', {
      mix: 100,
      'lines.1.timeLeft': 500,
      'lines.1.feedback': 100,
      'lines.1.filterType': 'lowPass',
      'lines.1.cutoff': 1000,
      'lines.1.filterPlace': place,
    });
    const burst = new Float32Array(72000);
    burst.set(sine(2000, 48000, 12000, 0.5));
    const out = run(kernel, burst).left;
    const level = (start: number) => db(amplitudeAt(out.slice(start + 2000, start + 11000), 2000, 48000) / 0.5);
    // |H| of a Butterworth low-pass an octave above its cutoff, bilinear transform at 48 kHz.
    expect(Math.abs(level(24000) - first)).toBeLessThan(0.2);
    expect(Math.abs(level(48000) - second)).toBeLessThan(0.3);
  });

  it('gliding time bends pitch exactly as its slope says, within 2 cents', () => {
    const rate = 48000;
    const kernel = kernelOf('delay', { ...wetOnly, 'lines.1.timeLeft': 400 });
    const slope = 0.1;
    const out = run(kernel, sine(1000, rate, 4 * rate), undefined, [128], (frame) => {
      if (frame > rate)
        setValue(kernel, 'delay', 'lines.1.timeLeft', Math.min(600, 400 + ((frame - rate) / rate) * 1000 * slope));
    }).left;
    const bent = pitchTrack(out, rate).filter(([at]) => at > 1.8 * rate && at < 2.8 * rate);
    expect(bent.length).toBeGreaterThan(500);
    for (const [, hz] of bent) expect(Math.abs(1200 * Math.log2(hz / (1000 * (1 - slope))))).toBeLessThan(2);
  });

  it('crossfading time keeps pitch and clicks nowhere', () => {
    const rate = 48000;
    const kernel = kernelOf('delay', { ...wetOnly, 'lines.1.timeLeft': 400, timeChange: 'crossfade' });
    const out = run(kernel, sine(200, rate, 3 * rate, 0.5), undefined, [128], (frame) => {
      if (frame > rate) setValue(kernel, 'delay', 'lines.1.timeLeft', 400 + (frame - rate) / 96);
    }).left;
    const settled = out.slice(rate / 2);
    // A 200 Hz tone bends by (2 pi 200 / 48000)^2 a frame; anything else stays 60 dB under the tone.
    expect(largestBend(settled) - 0.5 * ((2 * Math.PI * 200) / rate) ** 2).toBeLessThan(0.5e-3);
    expect(largest(settled)).toBeLessThan(0.51);
  });

  it('moves every parameter while sounding without a click', () => {
    const rate = 48000;
    const tone = sine(100, rate, rate, 0.5);
    const changes: [string, number | string | boolean][] = [
      ['mix', 90],
      ['lines.1.feedback', 80],
      ['lines.1.level', -20],
      ['lines.1.pan', -80],
      ['lines.1.mute', true],
      ['lines.1.swap', true],
      ['lines.1.inputSide', 'left'],
      ['lines.1.filterType', 'highPass'],
      ['lines.1.cutoff', 300],
      ['lines.1.resonance', 4],
      ['lines.1.slope', '24'],
      ['lines.1.filterPlace', 'loop'],
      ['lines.1.filterOrder', 'after'],
      ['lines.1.drive', 12],
      ['lines.1.driveCurve', 'fold'],
      ['lines.1.modDepth', 0.5],
    ];
    for (const [id, value] of changes) {
      const kernel = kernelOf('delay', {
        mix: 50,
        'lines.1.timeLeft': 50,
        'lines.1.filterType': id === 'lines.1.filterType' ? 'off' : 'lowPass',
        'lines.1.drive': id === 'lines.1.driveCurve' || id === 'lines.1.filterOrder' ? 6 : 0,
      });
      const out = run(kernel, tone, undefined, [128], (frame) => {
        if (frame === 128 * 190) setValue(kernel, 'delay', id, value);
      }).left;
      // The second difference of a click of 1 % of full scale would be 0.01.
      expect([id, largestBend(out.slice(20000)) < 0.002]).toEqual([id, true]);
    }
  });

  it('drive adds harmonics and keeps the reference level', () => {
    const values = { ...wetOnly, 'lines.1.timeLeft': 50 };
    const tone = sine(1000, 48000, 24000, 0.25);
    const level = (drive: number, frequency: number) =>
      amplitudeAt(
        run(kernelOf('delay', { ...values, 'lines.1.drive': drive }), tone).left.slice(12000),
        frequency,
        48000,
      );
    expect(db(level(0, 3000))).toBeLessThan(-120);
    expect(db(level(18, 3000) / level(18, 1000))).toBeGreaterThan(-25);
    expect(Math.abs(db(level(18, 1000) / 0.25))).toBeLessThan(3);
    const driven = run(
      kernelOf('delay', { ...values, 'lines.1.drive': 6, 'lines.1.driveCurve': 'hard' }),
      impulse(9600),
    ).left;
    expect(driven.indexOf(Math.max(...driven))).toBe(2400);
  });

  it('stays finite and under +6 dBFS with 110 % feedback on full-scale noise, for a minute', () => {
    const kernel = kernelOf('delay', {
      mix: 100,
      'lines.1.timeLeft': 20,
      'lines.1.feedback': 110,
      'lines.1.resonance': 8,
      'lines.1.filterType': 'bandPass',
    });
    const loud = noise(48000, 1);
    let most = 0;
    for (let second = 0; second < 60; second++) most = Math.max(most, largest(run(kernel, loud).left));
    expect(most).toBeLessThan(1.995);
    expect(most).toBeGreaterThan(0.1);
  });

  it('swings the time by its depth', () => {
    const rate = 48000;
    const depth = 1;
    const kernel = kernelOf(
      'delay',
      { ...wetOnly, 'lines.1.timeLeft': 100, 'lines.1.modDepth': depth, 'lines.1.modRate': 1 },
      rate,
    );
    const track = pitchTrack(run(kernel, sine(2000, rate, 2 * rate)).left, rate).filter(([at]) => at > rate / 2);
    const highest = Math.max(...track.map(([, hz]) => hz));
    // d(delay)/dt of 0.1 s (1 + 0.01 sin(2 pi t)) is 0.001 * 2 pi at most.
    const expected = 2000 * (1 + 0.1 * (depth / 100) * 2 * Math.PI);
    expect(Math.abs(1200 * Math.log2(highest / expected))).toBeLessThan(0.3);
  });

  it('states its tail', () => {
    expect(kernelOf('delay', { 'lines.1.timeLeft': 500, 'lines.1.feedback': 0 }).tailSeconds()).toBeCloseTo(0.55, 5);
    const half = kernelOf('delay', { 'lines.1.timeLeft': 500, 'lines.1.feedback': 50 }).tailSeconds();
    expect(half).toBeGreaterThan(7);
    expect(half).toBeLessThan(10);
    expect(kernelOf('delay', { 'lines.1.feedback': 100 }).tailSeconds()).toBe(Infinity);
  });
});
