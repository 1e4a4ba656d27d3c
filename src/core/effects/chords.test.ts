import fc from 'fast-check';
import { chordName, readChord, readKeys, writeKeys } from './chords';
import { keyName } from './pitchNames';

describe('names of chords', () => {
  it.each([
    ['C', 'C3 E3 G3'],
    ['Dm7', 'D3 F3 A3 C4'],
    ['Bbmaj7', 'A#3 D4 F4 A4'],
    ['F#m7b5', 'F#3 A3 C4 E4'],
    ['Asus4', 'A3 D4 E4'],
    ['G7', 'G3 B3 D4 F4'],
    ['E9', 'E3 G#3 B3 D4 F#4'],
    ['CMaj7', 'C3 E3 G3 B3'],
    ['Dm/A', 'A2 D3 F3 A3'],
    ['eb-', 'D#3 F#3 A#3'],
  ])('%s is %s', (name, keys) => {
    expect(readChord(name)!.map(keyName).join(' ')).toBe(keys);
  });

  it.each(['H', 'Dm77', '', 'D/', 'sus4', '3'])('%s is none', (name) => {
    expect(readChord(name)).toBeUndefined();
  });

  it('stand among notes, each key once', () => {
    expect(readKeys(['A2', 'Dm', 'F3'])).toEqual({ keys: [45, 50, 53, 57] });
    expect(readKeys(['D3', 'what'])).toEqual({ refused: 'what' });
    // Alone it is a chord; among others it is a note.
    expect(readKeys(['A7'])).toEqual({ keys: [57, 61, 64, 67] });
    expect(readKeys(['A7', 'A4'])).toEqual({ keys: [69, 105] });
  });

  it('are found for keys, wherever they are', () => {
    for (const name of ['C', 'Dm', 'F#dim', 'Dm7', 'A#maj7', 'Gsus4']) {
      const keys = readChord(name)!;
      expect(chordName(keys)).toBe(name);
      expect(chordName(keys.map((key) => key + 12))).toBe(name);
      expect(chordName(keys.map((key) => key - 48))).toBe(name);
    }
    expect(chordName([50, 51])).toBe('D3 D#3');
    expect(chordName([])).toBe('');
  });

  it('are written so that they are read again', () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.integer({ min: 0, max: 127 }), { minLength: 1, maxLength: 8 }), (keys) => {
        const sorted = [...keys].sort((a, b) => a - b);
        expect(readKeys(writeKeys(sorted).split(' '))).toEqual({ keys: sorted });
      }),
    );
  });
});
