import { drawn } from '../../../test/support/sweep';
import fc from 'fast-check';
import { KinetikonError } from '../errors';
import {
  amplitudeAt,
  db,
  freeKernels,
  kernelOf,
  largest,
  largestBend,
  RATES,
  run,
  setValue,
  sine,
  TIMING,
} from '../../../test/support/render';
import { Noise } from '../dsp/noise';
import { KERNELS } from './kernels.generated';
import { NOTE_VALUES, noteValueSeconds } from './noteValues';
import { describeRange, formatValue, parseValue } from './parameterText';
import { EFFECTS, effectById } from './registry';
import { resolveValue, validateTimes } from './resolve';
import { positionOf, ticksOf, valueAt } from './scale';
import {
  defaultValues,
  findParameter,
  isActive,
  type NumberParameter,
  type Parameter,
  type ParameterValue,
  type ParameterValues,
} from './spec';

const numbers = EFFECTS.flatMap((spec) => spec.parameters.filter((p): p is NumberParameter => p.kind === 'number'));
const delayTime = findParameter(effectById('delay'), 'lines.1.timeLeft')!;
const parameter = (effect: string, id: string) => findParameter(effectById(effect), id)!;

describe('every effect', () => {
  it('has a kernel, help for every parameter, and presets that hold', () => {
    expect(Object.keys(KERNELS).sort()).toEqual(EFFECTS.map((spec) => spec.id).sort());
    for (const spec of EFFECTS) {
      for (const one of spec.parameters) expect(one.help.length).toBeGreaterThan(10);
      expect(spec.presets.length).toBeGreaterThan(2);
    }
  });

  /** Another value of a parameter, some way along its range. */
  const other = (one: Parameter): ParameterValue => {
    if (one.kind === 'toggle') return !one.default;
    if (one.kind === 'choice') return one.choices.find((choice) => choice.id !== one.default)!.id;
    const now = positionOf(one, resolveValue(one, one.default, TIMING));
    return valueAt(one, now < 0.5 ? now + 0.35 : now - 0.35);
  };
  const inUse: Record<string, ParameterValues> = {
    eq: { 'bands.1.on': true, 'bands.2.on': true, 'bands.2.gain': 5, 'bands.5.on': true, 'bands.5.gain': -4 },
    transient: { attack: 30, sustain: 20 },
    saturator: { lowCut: 60, highCut: 9000 },
    flanger: { filterType: 'lowPass', feedback: 40 },
    chorus: { feedback: 30, wear: 20, noise: 20 },
    vocoder: { notes: 'A2', carrierVoices: 1, carrierNoise: 0, inputLevelling: 0 },
  };

  it.each(EFFECTS.map((spec) => [spec.id] as const))(
    '%s: sounds the same however its input is cut into blocks, with everything changing',
    (id) => {
      const noise = new Noise(4);
      const sound = Float32Array.from({ length: 960 }, () => 0.4 * noise.pink());
      const parameters = effectById(id).parameters;
      const through = (sizes: number[]) => {
        const kernel = kernelOf(id, inUse[id] ?? {});
        kernel.locate(12345);
        return Array.from({ length: 24 }, (_, turn) => {
          const one = parameters[(turn * 5) % parameters.length]!;
          setValue(kernel, id, one.id, turn % 2 ? one.default : other(one));
          const out = run(kernel, sound, undefined, sizes);
          return [...out.left, ...out.right];
        }).flat();
      };
      const whole = through([128]);
      expect(largest(whole)).toBeGreaterThan(0.01);
      for (const sizes of [[1], [37, 5, 128, 64, 512]]) {
        const off = through(sizes).findIndex((x, n) => x !== whole[n]);
        expect(off).toBe(-1);
      }
    },
  );

  it.each(EFFECTS.filter(({ id }) => id !== 'delay').map((spec) => [spec.id] as const))(
    '%s: moves every parameter while sounding without a click',
    (id) => {
      const tone = sine(100, 48000, 4800, 0.4);
      for (const one of drawn(`moves of ${id}`, effectById(id).parameters)) {
        // A level that is made good over a second still rises when it has long moved.
        const steady: ParameterValues = id === 'vocoder' ? { even: 0 } : {};
        const kernel = kernelOf(id, { ...inUse[id], ...steady });
        const play = () => largestBend(run(kernel, tone).left);
        play();
        play();
        const before = play();
        setValue(kernel, id, one.id, other(one));
        const moving = play();
        play();
        play();
        // Hiss and random courses have bends of their own, which differ from time to time.
        const after = Math.max(play(), play(), play());
        // Nothing above -50 dB of the tone beyond what the two settings have themselves.
        expect([one.id, moving - Math.max(before, after) < 0.4 * 0.003]).toEqual([one.id, true]);
      }
    },
  );

  it.each(['delay', 'chorus', 'flanger', 'phaser'])(
    '%s: with all its feedback stays under +6 dBFS at any mix, full-scale noise going in',
    (id) => {
      const noise = new Noise(4);
      const sound = Float32Array.from({ length: 48000 }, () => noise.white());
      const lines = Array.from({ length: 8 }, (_, n) => n + 1);
      const most: Record<string, ParameterValues> = {
        delay: Object.fromEntries(
          lines.flatMap((n) => [
            [`lines.${n}.on`, true],
            [`lines.${n}.timeLeft`, 3 + n],
            [`lines.${n}.feedback`, 110],
            [`lines.${n}.level`, 6],
            [`lines.${n}.resonance`, 10],
            [`lines.${n}.filterType`, 'bandPass'],
          ]),
        ),
        chorus: { feedback: 90, voices: '6' },
        flanger: { feedback: 99, delay: 1 },
        phaser: { feedback: 95, stages: '24' },
      };
      for (const mix of [30, 66, 100]) {
        const kernel = kernelOf(id, { ...most[id], mix });
        expect(largest(run(kernel, sound).left)).toBeLessThan(10 ** (6 / 20));
        // Nothing goes in any more: what goes round alone.
        expect(largest(run(kernel, new Float32Array(48000)).left)).toBeLessThan(10 ** (6 / 20));
      }
    },
  );

  it.each(RATES)('survives all parameters at both ends at %d Hz', (rate) => {
    const noise = new Noise(1);
    const sound = Float32Array.from({ length: 4000 }, () => noise.white());
    for (const spec of EFFECTS) {
      for (const one of drawn(`${spec.id} ${rate}`, spec.parameters)) {
        const ends =
          one.kind === 'number'
            ? [one.min, one.max]
            : one.kind === 'toggle'
              ? [true, false]
              : one.choices.map((c) => c.id);
        for (const value of ends) {
          const out = run(kernelOf(spec.id, { [one.id]: value }, rate), sound);
          expect([one.id, value, out.left.every(Number.isFinite)]).toEqual([one.id, value, true]);
          freeKernels();
        }
      }
    }
  });
});

describe('parameter text', () => {
  it.each([
    [delayTime, '250ms', 250],
    [delayTime, '0.25s', 250],
    [delayTime, '.5 s', 500],
    [delayTime, '250', 250],
    [delayTime, '1/8d', '1/8d'],
    [delayTime, '1/8 dotted', '1/8d'],
    [delayTime, '2 bars', '2bar'],
    [parameter('delay', 'lines.1.cutoff'), '2k', 2000],
    [parameter('delay', 'lines.1.cutoff'), '2.5 kHz', 2500],
    [parameter('delay', 'lines.1.level'), '-6dB', -6],
    [parameter('delay', 'lines.1.level'), '-inf', -100],
    [parameter('delay', 'lines.1.pan'), '12 left', -12],
    [parameter('delay', 'lines.1.pan'), 'right', 100],
    [parameter('delay', 'mix'), '40%', 40],
    [parameter('delay', 'lines.1.swap'), 'on', true],
    [parameter('delay', 'lines.1.filterType'), 'Low-pass', 'lowPass'],
    [parameter('delay', 'lines.1.modRate'), '1/4t', '1/4t'],
  ] as const)('%# reads what people type', (one, text, value) => {
    expect(parseValue(one, text)).toBe(value);
  });

  it('refuses the rest, naming the parameter, its range and what was given', () => {
    const attempt = (id: string, text: string) => () => parseValue(parameter('delay', id), text);
    expect(attempt('lines.1.timeLeft', '13s')).toThrow(
      'lines.1.timeLeft takes 0.1 ms to 12 s or a note value such as 1/8d, not 13000.',
    );
    expect(attempt('mix', 'plenty')).toThrow('mix takes 0 % to 100 %, not "plenty".');
    expect(attempt('lines.1.swap', 'maybe')).toThrow('takes on or off');
    expect(attempt('lines.1.slope', '18')).toThrow('takes 12, 24');
    for (const text of ['', ' ', 'NaN', '1e999', '--3', '1/7', '5bar', '3 dB'])
      expect(attempt('lines.1.timeLeft', text)).toThrow(KinetikonError);
  });

  it('reads back what it writes, within the figures shown', () => {
    fc.assert(
      fc.property(fc.constantFrom(...numbers), fc.double({ min: 0, max: 1, noNaN: true }), (one, position) => {
        const value = valueAt(one, position);
        const again = parseValue(one, formatValue(one, value, TIMING)) as number;
        expect(Math.abs(positionOf(one, again) - positionOf(one, value))).toBeLessThan(0.02);
      }),
    );
  });

  it('shows note values with their length at the tempo', () => {
    expect(formatValue(delayTime, '1/8d', TIMING)).toBe('1/8 dotted, 536 ms');
    expect(formatValue(parameter('delay', 'lines.1.modRate'), '1bar', TIMING)).toBe('1 bar, 0.47 Hz');
    expect(formatValue(parameter('delay', 'lines.1.cutoff'), 3400, TIMING)).toBe('3.4 kHz');
    expect(describeRange(parameter('limiter', 'ceiling'))).toBe('-24.0 dB to 0.0 dB');
  });
});

describe('parameters that need another', () => {
  const active = (values: Record<string, ParameterValue>) =>
    effectById('delay')
      .parameters.filter((one) => isActive(one, { ...defaultValues(effectById('delay')), ...values }))
      .map((one) => one.id);

  it('are those that change nothing at the values there are', () => {
    expect(active({})).not.toContain('lines.1.timeRight');
    expect(active({ 'lines.1.linked': false })).toContain('lines.1.timeRight');
    expect(active({})).not.toContain('lines.1.cutoff');
    expect(active({ 'lines.1.filterType': 'notch', 'lines.1.drive': 3 })).toEqual(
      expect.arrayContaining(['lines.1.cutoff', 'lines.1.driveCurve']),
    );
    const tone = Float32Array.from({ length: 30000 }, (_, n) => Math.sin(n / 20));
    const standard = run(kernelOf('delay', {}), tone).left;
    const odd = {
      'lines.1.timeRight': 77,
      'lines.1.cutoff': 99,
      'lines.1.slope': '24',
      'lines.1.driveCurve': 'fold',
      'lines.1.resonance': 5,
    };
    expect(run(kernelOf('delay', odd), tone).left).toEqual(standard);
  });
});

describe('note values', () => {
  it('follow the tempo', () => {
    expect(noteValueSeconds('1/4', TIMING)).toBeCloseTo(60 / 84, 12);
    expect(noteValueSeconds('1/8t', TIMING)).toBeCloseTo(20 / 84, 12);
    expect(noteValueSeconds('4bar', TIMING)).toBeCloseTo(720 / 84, 12);
    expect(noteValueSeconds('1/5', TIMING)).toBeUndefined();
    expect(NOTE_VALUES).toHaveLength(25);
  });

  it('are read as people write them', () => {
    for (const [text, note] of [
      ['3/16', '1/8d'],
      ['3/8', '1/4d'],
      ['1/2.', '1/2d'],
      ['1/8 d', '1/8d'],
      ['1/8 Dotted', '1/8d'],
      ['1/16 triplet', '1/16t'],
      ['2 bars', '2bar'],
    ] as const) {
      expect(parseValue(delayTime, text)).toBe(note);
    }
    for (const text of ['3/5', '5/8', '3/1', '1/8dt', '1/8.d']) expect(() => parseValue(delayTime, text)).toThrow();
  });

  it('come to their own time at every tempo, or are refused by name', () => {
    for (let tempoBpm = 20; tempoBpm <= 300; tempoBpm += 7) {
      for (const beatsPerBar of [2, 3, 4, 6]) {
        const timing = { tempoBpm, beatsPerBar };
        for (const note of NOTE_VALUES) {
          const seconds = noteValueSeconds(note, timing)!;
          expect(resolveValue(parameter('chorus', 'rate'), note, timing)).toBeCloseTo(1 / seconds, 9);
          const refused = seconds > 12;
          const check = () => parseValue(delayTime, note, timing);
          if (refused) expect(check).toThrow(/lines\.1\.timeLeft takes 0\.1 ms to 12 s; .* BPM would be/);
          else {
            expect(check()).toBe(note);
            expect(resolveValue(delayTime, note, timing)).toBeCloseTo(seconds * 1000, 6);
          }
        }
      }
    }
  });

  it('swing as fast as they say: 1/64 at 120 BPM is 32 Hz', () => {
    const kernel = kernelOf('autopan', { phase: 0, depth: 50, smooth: 0 });
    const { parameters } = effectById('autopan');
    const rate = parameters.findIndex(({ id }) => id === 'rate');
    kernel.setParameter(rate, resolveValue(parameters[rate]!, '1/64', { tempoBpm: 120, beatsPerBar: 4 }));
    const out = run(kernel, new Float32Array(96000).fill(0.5)).left.slice(48000);
    expect(amplitudeAt(out, 32, 48000)).toBeGreaterThan(10 * amplitudeAt(out, 20, 48000));
  });

  it('a ratio that leads out of the range of times is refused by name', () => {
    const spec = effectById('delay');
    const check = (values: ParameterValues) => () => validateTimes(spec, values, TIMING);
    expect(check({ 'lines.2.timeLeft': 6000, 'lines.2.rightRatio': 400 })).toThrow('lines.2.rightRatio takes');
    expect(check({ 'lines.2.timeLeft': 0.2, 'lines.2.rightRatio': 25 })).toThrow('0.05 ms');
    expect(check({ 'lines.2.timeLeft': 6000, 'lines.2.rightRatio': 400, 'lines.2.linked': false })).not.toThrow();
    expect(check({ 'lines.2.timeLeft': 3000, 'lines.2.rightRatio': 400 })).not.toThrow();
  });
});

describe('ruler scale', () => {
  it('goes there and back, in order, ends at its ends', () => {
    const failures: [string, number][] = [];
    for (const one of numbers) {
      expect([valueAt(one, 0), valueAt(one, 1)]).toEqual([one.min, one.max]);
      expect(positionOf(one, one.min)).toBe(0);
      expect(positionOf(one, one.max)).toBeCloseTo(1, 12);
      for (let at = 0.05; at < 1; at += 0.05) {
        const [value, before] = [valueAt(one, at), valueAt(one, at - 0.05)];
        if (!(Math.abs(positionOf(one, value) - at) < 0.02 && value > before)) failures.push([one.id, at]);
      }
      const ticks = ticksOf(one);
      expect(ticks.length).toBeGreaterThan(3);
      expect(ticks.every(({ position }) => position >= 0 && position <= 1.0001)).toBe(true);
    }
    expect(failures).toEqual([]);
    expect(db(1)).toBe(0);
    expect(Object.keys(defaultValues(effectById('delay')))).toContain('lines.1.timeLeft');
  });
});
