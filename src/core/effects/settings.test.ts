import fc from 'fast-check';
import { keyName, readKey } from './pitchNames';
import {
  HIGHEST_SEED,
  normalSetting,
  resolveSetting,
  writeCurve,
  type CurveSetting,
  type NotesSetting,
  type SeedSetting,
} from './settings';
import { defineEffect, defaultValues, findSetting, number } from './spec';
import { resolveSettings, validateValues } from './resolve';
import { formatUnit, readFigure } from './units';

const words = { help: 'A help of some length.', group: 'Tail' };
const decay: CurveSetting = {
  ...words,
  kind: 'curve',
  id: 'decay',
  name: 'Decay',
  x: { name: 'Frequency', unit: 'Hz', min: 20, max: 20000, scale: 'log' },
  y: { name: 'Decay time', unit: 's', min: 0.05, max: 60, scale: 'log' },
  mostPoints: 4,
  default: '125:2,4000:1',
};
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
    expect(defaultValues(spec)).toEqual({ mix: 50, decay: '125:2,4000:1', chord: 'D3 F3 A3', seed: 7 });
    expect(validateValues(spec, { mix: 10, chord: ' a3, D3 d3', seed: '42', decay: '4k:500ms 0.125k:2s' })).toEqual({
      mix: 10,
      chord: 'D3 A3',
      seed: 42,
      decay: '125:2,4000:0.5',
    });
    expect(resolveSettings(spec, { chord: 'C2' })).toEqual({
      decay: { kind: 'curve', x: [125, 4000], y: [2, 1] },
      chord: { kind: 'notes', keys: [36] },
      seed: { kind: 'seed', value: 7 },
    });
    expect(findSetting(spec, 'mix')).toBeUndefined();
    expect(() => validateValues(spec, { chords: 'C2' })).toThrow('made-up has no parameter chords');
    expect(() => defineEffect({ ...spec, settings: [seed, seed] })).toThrow('share an id');
  });

  it.each([
    [decay, '', 'decay takes 1 to 4 points such as 125:2,4000:1, of 20 Hz to 20 kHz and 0.05 s to 60 s, not ""'],
    [decay, '125', '125 is no point'],
    [decay, '10:2', '10:2 lies outside'],
    [decay, '125:2 0.125k:3', '125 Hz is there twice'],
    [decay, '1k:1 2k:1 3k:1 4k:1 5k:1', 'takes 1 to 4 points'],
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

  it('read what they have written, whatever the points', () => {
    const point = fc.record({ x: fc.integer({ min: 20, max: 20000 }), y: fc.integer({ min: 1, max: 60 }) });
    fc.assert(
      fc.property(fc.uniqueArray(point, { minLength: 1, maxLength: 4, selector: ({ x }) => x }), (points) => {
        const sorted = points.sort((a, b) => a.x - b.x);
        const written = writeCurve(sorted);
        expect(resolveSetting(decay, written)).toEqual({
          kind: 'curve',
          x: sorted.map(({ x }) => x),
          y: sorted.map(({ y }) => y),
        });
        expect(normalSetting(decay, written)).toBe(written);
      }),
      { seed: 3 },
    );
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
