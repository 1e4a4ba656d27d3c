import { thinned } from '../../../test/support/sweep';
import fc from 'fast-check';
import { KinetikonError } from '../errors';
import { parsePreset, writePreset, type PresetFile } from './preset';
import { readSound } from './readSound';
import { writeFlac } from './flac';
import type { Sound } from './sound';
import { readWav, writeWav } from './wav';

const tone = (channels: number, frames = 4800, rate = 48000): Sound => ({
  sampleRateHz: rate,
  channels: Array.from({ length: channels }, (_, channel) =>
    Float32Array.from({ length: frames }, (_, n) => 0.7 * Math.sin((2 * Math.PI * (300 + 50 * channel) * n) / rate)),
  ),
});

const codeOf = async (work: () => unknown) => {
  try {
    await work();
  } catch (error) {
    return (error as KinetikonError).code;
  }
  return 'no error';
};

describe('WAV', () => {
  it('keeps floating point bit for bit', () => {
    fc.assert(
      fc.property(fc.array(fc.float({ min: -4, max: 4, noNaN: true }), { minLength: 1 }), (values) => {
        const sound = {
          sampleRateHz: 44100,
          channels: [Float32Array.from(values), Float32Array.from(values).reverse()],
        };
        expect(readWav(writeWav(sound, '32f'), 'a.wav')).toEqual(sound);
      }),
    );
  });

  it('keeps 24 bits within half a step and 16 bits within one and a half, dithered', () => {
    const sound = tone(2);
    for (const [format, step, most] of [
      ['24', 2 ** -23, 0.501],
      ['16', 2 ** -15, 1.5],
    ] as const) {
      const back = readWav(writeWav(sound, format), 'a.wav').channels[1]!;
      const errors = back.map((x, n) => (x - sound.channels[1]![n]!) / step);
      expect(Math.max(...errors.map(Math.abs))).toBeLessThanOrEqual(most);
      const power = errors.reduce((sum, e) => sum + e * e, 0) / errors.length;
      // Rounding alone has 1/12 of a step squared; triangular dither makes it three times that.
      expect(power).toBeCloseTo(format === '16' ? 0.25 : 1 / 12, 1);
    }
    const silence = { sampleRateHz: 48000, channels: [new Float32Array(1000)] };
    expect(new Set(readWav(writeWav(silence, '16'), 'a').channels[0]).size).toBeGreaterThan(1);
  });

  it('clips what is over full scale instead of wrapping it', () => {
    const loud = { sampleRateHz: 48000, channels: [Float32Array.from([2, -2])] };
    expect([...readWav(writeWav(loud, '24'), 'a').channels[0]!]).toEqual([8388607 / 8388608, -1]);
  });

  it('reads extensible headers, 64 bit floats and unknown sizes', () => {
    const plain = writeWav(tone(2, 100), '24');
    const extensible = new Uint8Array(plain.length + 24);
    extensible.set(plain.subarray(0, 36));
    extensible.set(plain.subarray(36), 60);
    const view = new DataView(extensible.buffer);
    view.setUint32(16, 40, true);
    view.setUint16(20, 0xfffe, true);
    view.setUint16(44, 1, true);
    view.setUint32(64, 0xffffffff, true);
    expect(readWav(extensible, 'a').channels).toEqual(readWav(plain, 'a').channels);
  });

  it('refuses broken files with a reason', async () => {
    const good = writeWav(tone(1, 100), '16');
    const edited = (edit: (view: DataView) => void) => {
      const copy = good.slice();
      edit(new DataView(copy.buffer));
      return copy;
    };
    const cases: [Uint8Array, string][] = [
      [good.subarray(0, 100), 'file.broken'],
      [good.subarray(0, 30), 'file.broken'],
      [edited((v) => v.setUint16(22, 0, true)), 'file.broken'],
      [edited((v) => v.setUint32(24, 7, true)), 'file.broken'],
      [edited((v) => v.setUint16(32, 3, true)), 'file.broken'],
      [edited((v) => v.setUint16(20, 85, true)), 'file.unsupported'],
      [writeWav({ sampleRateHz: 48000, channels: [new Float32Array(0)] }, '16'), 'file.empty'],
      [new Uint8Array([1, 2, 3]), 'file.unsupported'],
      [new Uint8Array(0), 'file.empty'],
    ];
    for (const [bytes, code] of cases) expect(await codeOf(() => readSound(bytes, 'voice.wav'))).toBe(code);
    await expect(readSound(good.subarray(0, 100), 'voice.wav')).rejects.toThrow(
      'voice.wav: it says 200 bytes of sound and holds 56',
    );
  });

  it('never crashes on arbitrary bytes', () => {
    const good = writeWav(tone(1, 50), '16');
    fc.assert(
      fc.property(fc.nat({ max: 60 }), fc.integer({ min: 0, max: 255 }), (at, value) => {
        const copy = good.slice();
        copy[at] = value;
        try {
          readWav(copy, 'a');
        } catch (error) {
          expect(error).toBeInstanceOf(KinetikonError);
        }
      }),
      { numRuns: thinned(500) },
    );
  });
});

describe('FLAC', () => {
  it.each([16, 24] as const)('keeps %d bit integers exactly', async (bits) => {
    const steps = 2 ** (bits - 1);
    const sound: Sound = {
      sampleRateHz: 44100,
      channels: tone(2, 9000).channels.map((channel) => channel.map((x) => Math.round(x * steps) / steps + 0)),
    };
    const back = await readSound(await writeFlac(sound, bits), 'a.flac');
    if (bits === 24) expect(back).toEqual(sound);
    else
      expect(Math.max(...back.channels[0]!.map((x, n) => Math.abs(x - sound.channels[0]![n]!)))).toBeLessThan(
        2 / steps,
      );
  });

  it('refuses files that were cut short', async () => {
    const bytes = await writeFlac(tone(1, 50000), 16);
    expect(await codeOf(() => readSound(bytes.subarray(0, bytes.length / 2), 'a.flac'))).toBe('file.broken');
  });
});

describe('presets', () => {
  const preset: PresetFile = {
    format: 'kinetikon.preset',
    version: 1,
    kind: 'chain',
    name: 'Low tide',
    tags: ['voice', 'dark'],
    effects: [
      { effect: 'eq', bypass: false, values: { 'bands.1.on': true, 'bands.1.frequency': 120 } },
      { effect: 'delay', bypass: true, values: { 'lines.1.timeLeft': '1/8d' } },
    ],
  };

  it('survive being written and read', () => {
    expect(parsePreset(writePreset(preset))).toEqual(preset);
  });

  it('of the first kind still open', () => {
    expect(parsePreset('{"effect":"delay","values":{"mix":40}}').effects).toEqual([
      { effect: 'delay', bypass: false, values: { mix: 40 } },
    ]);
  });

  it.each([
    ['{', 'not JSON'],
    ['{"format":"other"}', 'not a preset'],
    [JSON.stringify({ ...preset, version: 9 }), 'newer version (9)'],
    [JSON.stringify({ ...preset, kind: 'effect' }), 'holds one, not 2'],
    [JSON.stringify({ ...preset, colour: 'red' }), 'there is nothing called colour that could be set'],
    [JSON.stringify({ ...preset, effects: [{ effect: 'choir', bypass: false, values: {} }] }), 'no effect "choir"'],
    [
      JSON.stringify({ ...preset, effects: [{ effect: 'delay', bypass: false, values: { mix: 140 } }] }),
      'mix takes 0 % to 100 %, not 140',
    ],
  ])('are refused with the reason: %s', (text, reason) => {
    expect(() => parsePreset(text)).toThrow(reason);
  });
});

describe('samples that are no sound', () => {
  it('are silence and are counted: not numbers, or above +120 dBFS', () => {
    const bytes = writeWav(
      { sampleRateHz: 48000, channels: [Float32Array.of(0.5, NaN, Infinity, 1e38, -1e7, 9e5)] },
      '32f',
    );
    const { channels, unusable } = readWav(bytes, 'odd.wav');
    expect([Array.from(channels[0]!), unusable]).toEqual([[0.5, 0, 0, 0, 0, 9e5], 4]);
  });
});
