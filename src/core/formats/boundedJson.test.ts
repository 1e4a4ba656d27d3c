import fc from 'fast-check';
import { BoundedJsonReader, readBoundedJson } from './boundedJson';

const read = (text: string) => readBoundedJson(text, 1000000);

describe('bounded JSON', () => {
  it('is what JSON is, however its bytes are cut', () => {
    fc.assert(
      fc.property(fc.json({ maxDepth: 8 }), fc.integer({ min: 1, max: 7 }), (text, size) => {
        const bytes = new TextEncoder().encode(text);
        const reader = new BoundedJsonReader(bytes.length);
        for (let at = 0; at < bytes.length; at += size) reader.push(bytes.subarray(at, at + size));
        expect(reader.end()).toEqual(JSON.parse(text));
      }),
    );
  });

  it('is refused past its bounds, before it is built', () => {
    expect(() => readBoundedJson('[1,2,3]', 6)).toThrow('larger than 6 bytes');
    expect(() => read(`${'['.repeat(65)}${']'.repeat(65)}`)).toThrow('nested 64 levels deep');
    expect(read(`${'['.repeat(64)}${']'.repeat(64)}`)).toBeDefined();
    expect(() => read(`${'{"a":'.repeat(7000)}1${'}'.repeat(7000)}`)).toThrow('nested 64 levels deep');
    const many = `[${'{},'.repeat(4000000)}{}]`;
    expect(() => readBoundedJson(many, many.length)).toThrow('4000000 values');
  });

  it('takes brackets in texts for letters', () => {
    const text = JSON.stringify({ a: `${'['.repeat(500)}"\\`, b: '\\' });
    expect(read(text)).toEqual(JSON.parse(text));
  });

  it('names what cannot be stored', () => {
    expect(() => read('{"a":{"b":["x","\\u0000"]}}')).toThrow('a.b.1 holds a NUL character.');
    expect(() => read('{"a":"\\uD83D"}')).toThrow('a holds half of a character');
    expect(() => read('{"a":{"\\udc00":1}}')).toThrow('A name in a holds half of a character');
    expect(read('{"a":"\\ud83d\\udca7"}')).toEqual({ a: '💧' });
    expect(() => read('{"a":')).toThrow('not JSON');
    const reader = new BoundedJsonReader(10);
    expect(() => reader.push(Uint8Array.of(34, 255, 34))).toThrow('UTF-8');
  });
});
