import fc from 'fast-check';
import { cutText, quoted, textFlaw, textLength } from './text';

describe('text', () => {
  it('is counted and cut by code points', () => {
    expect(textLength('a💧b')).toBe(3);
    expect(cutText(`${'x'.repeat(119)}💧`, 120)).toBe(`${'x'.repeat(119)}💧`);
    expect(cutText(`${'x'.repeat(119)}💧y`, 120)).toBe(`${'x'.repeat(119)}💧`);
    expect(cutText('💧'.repeat(130), 120)).toBe('💧'.repeat(120));
  });

  it('that is cut can still be stored, is no longer than asked, and is whole when it fits', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), fc.nat(40), (text, most) => {
        const cut = cutText(text, most);
        return (
          textLength(cut) === Math.min(most, textLength(text)) &&
          text.startsWith(cut) &&
          textFlaw(cut.replaceAll('\0', '')) === undefined
        );
      }),
    );
  });

  it('tells what keeps it from being stored', () => {
    expect(textFlaw('💧 tide')).toBeUndefined();
    expect(textFlaw('a\0')).toBe('a NUL character');
    expect(textFlaw('a💧'.slice(0, 2))).toBe('half of a character (a lone surrogate)');
  });

  it('quotes anything JSON can hold in 60 characters at most', () => {
    expect(quoted({ toString: 1 })).toBe('{"toString":1}');
    expect(quoted(undefined)).toBe('undefined');
    fc.assert(fc.property(fc.jsonValue(), (value) => textLength(quoted(value)) <= 60));
  });
});
