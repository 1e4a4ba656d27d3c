import fc from 'fast-check';
import { keyName, readKey } from './pitchNames';
import {
  HIGHEST_SEED,
  normalSetting,
  resolveSetting,
  writeOctaves,
  type NotesSetting,
  type OctavesSetting,
  type SeedSetting,
} from './settings';
import { defineEffect, defaultValues, findSetting, number } from './spec';
import { resolveSettings, validateValues } from './resolve';
import { formatUnit, readFigure } from './units';

const words = { help: 'A help of some length.', group: 'Tail' };
const decay: OctavesSetting = {
  ...words,
  kind: 'octaves',
  id: 'decay',
  formerId: 'course',
  name: 'Decay',
  min: 0.1,
  max: 4,
  default: '1,1,1,1,1,1,1,0.9,0.6',
};
const flatTo4k = '125:2,4000:0.5';
/** From 2 to 0.5 by a smooth step over five octaves: 2 / 4^(3 t^2 - 2 t^3). */
const asOctaves = '2,2,1.731,1.228,0.8145,0.5775,0.5,0.5,0.5';
const chord: NotesSetting = { ...words, kind: 'notes', id: 'chord', name: 'Chord', most: 6, default: 'D3 F3 A3' };
const seed: SeedSetting = { ...words, kind: 'seed', id: 'seed', name: 'Seed', default: 7 };
const spec = defineEffect({
  id: 'made-up',
  name: 'Made up',
  family: 'tools',
  purpose: 'Has every kind of setting.',
  picture: 'response',
  main: ['mix'],
  presets: [{ id: 'low', name: 'Low', purpose: 'Voice', values: { chord: 'C2', mix: 10 } }],
  parameters: [
    number({ id: 'mix', name: 'Mix', unit: '%', min: 0, max: 100, default: 50, scale: 'linear', help: '-' }),
  ],
  settings: [decay, chord, seed],
});

describe('settings of an effect', () => {
  it('stand beside its parameters in defaults, presets and validation', () => {
    expect(defaultValues(spec)).toEqual({ mix: 50, decay: '1,1,1,1,1,1,1,0.9,0.6', chord: 'D3 F3 A3', seed: 7 });
    expect(validateValues(spec, { mix: 10, chord: ' a3, D3 d3', seed: '42', decay: '4k:0.5 0.125k:2' })).toEqual({
      mix: 10,
      chord: 'D3 A3',
      seed: 42,
      decay: asOctaves,
    });
    expect(resolveSettings(spec, { chord: 'C2' })).toEqual({
      decay: { kind: 'octaves', factors: [1, 1, 1, 1, 1, 1, 1, 0.9, 0.6] },
      chord: { kind: 'notes', keys: [36] },
      seed: { kind: 'seed', value: 7 },
    });
    expect(findSetting(spec, 'mix')).toBeUndefined();
    expect(findSetting(spec, 'course')).toBe(decay);
    for (const values of [
      { course: flatTo4k },
      { course: flatTo4k, decay: 'flat' },
      { decay: 'flat', course: flatTo4k },
    ])
      expect(validateValues(spec, values)).toEqual({ decay: asOctaves });
    expect(() => validateValues(spec, { chords: 'C2' })).toThrow('made-up has no parameter chords');
    expect(() => defineEffect({ ...spec, settings: [seed, seed] })).toThrow('share an id');
  });

  it.each([
    [
      decay,
      '',
      'decay takes flat, nine factors from 0.1 to 4 for 63 Hz to 16 kHz, or 1 to 9 points from 20 Hz to 20 kHz such as 125:1.3,4000:0.7, not ""',
    ],
    [decay, '1,1,1,1,1,1,1,1', 'decay takes'],
    [decay, '1,1,1,1,5,1,1,1,1', '5 lies outside'],
    [decay, '1,1,1,1,x,1,1,1,1', 'x cannot be read'],
    [decay, '125:2 500', '500 is no point'],
    [decay, '10:2', '10:2 lies outside'],
    [decay, '125:0.05', '125:0.05 lies outside'],
    [decay, '125:2 0.125k:3', '125 Hz is there twice'],
    [decay, '1k:1 2k:1 3k:1 4k:1 5k:1 6k:1 7k:1 8k:1 9k:1 10k:1', '1 to 9 points'],
    [decay, 5, 'decay takes'],
    [chord, 'D3 H4', 'H4 is neither a note nor a chord'],
    [chord, 'C1 C2 C3 C4 C5 C6 C7', 'chord takes 1 to 6 notes such as D3 F3 A3, or a chord such as Dm7, not "C1 C2'],
    [chord, true, 'chord takes'],
    [seed, 1.5, `seed takes a whole number from 0 to ${HIGHEST_SEED}, not "1.5"`],
    [seed, -1, 'seed takes'],
    [seed, 'seven', 'seed takes'],
  ])('refuse what they do not take, with the reason: %#', (setting, value, message) => {
    expect(() => resolveSetting(setting, value)).toThrow(message);
  });

  it('read what they have written: octaves within half of the last digit, notes all', () => {
    const factor = fc.double({ min: 0.1, max: 4, noNaN: true });
    fc.assert(
      fc.property(fc.array(factor, { minLength: 9, maxLength: 9 }), (factors) => {
        const written = writeOctaves(factors);
        const read = resolveSetting(decay, written) as { factors: readonly number[] };
        factors.forEach((one, n) => expect(Math.abs(read.factors[n]! / one - 1)).toBeLessThan(5.01e-4));
        expect(normalSetting(decay, written)).toBe(written);
      }),
      { seed: 3 },
    );
    expect(resolveSetting(decay, 'flat')).toEqual({ kind: 'octaves', factors: Array(9).fill(1) });
    expect(normalSetting(decay, '1 1 1 1 1 1 1 1 1')).toBe('flat');
    for (let key = 0; key < 128; key++) expect(readKey(keyName(key))).toBe(key);
    expect([readKey('Bb2'), readKey('a♯2'), readKey('69'), readKey('G#9'), readKey('C-2')]).toEqual([
      46,
      46,
      69,
      undefined,
      undefined,
    ]);
  });
});

describe('units', () => {
  it.each([
    ['m', '2.5 m', 2.5, '2.5 m'],
    ['m', '40cm', 0.4, '40 cm'],
    ['semitones', '-7 st', -7, '-7 semitones'],
    ['semitones', '1', 1, '1 semitone'],
    ['cents', '12 cents', 12, '12 cents'],
    ['beats', '1 beat', 1, '1 beat'],
  ] as const)('%s: %s', (unit, text, value, shown) => {
    expect(readFigure(unit, text)).toBe(value);
    expect(formatUnit(unit, value)).toBe(shown);
  });
});
