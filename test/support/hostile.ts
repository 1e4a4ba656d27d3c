import type { SeededRandom } from '@/core/math/random';

type Json = unknown;

/** Texts, figures and shapes that have broken something, somewhere. */
const HOSTILE: readonly Json[] = [
  ...['', 'constructor', '__proto__', 'toString', 'valueOf', 'hasOwnProperty', '\0', 'a\0b', '\ud83d', '\udc00x', '😀'],
  ...['💧'.repeat(120), '💧'.repeat(121), 'x'.repeat(100000), '../../etc/passwd', "'; drop table sessions; --", '1/8d'],
  ...['NaN', 'Infinity', '-0', '<script>', '%00', '{}', 'main', 'session', 'lines.1.feedback', 'lines.99.feedback'],
  ...[0, -0, -1, 0.5, 1e-320, 1e38, 1e308, -1e308, 2 ** 31, 2 ** 53, 2 ** 53 + 2, 1e21, -(2 ** 63)],
  ...[null, true, false, [], {}, [[]], [null], { length: 5 }, { toString: 1 }, { valueOf: 1 }, { then: 1 }],
];
const KEYS = [
  'constructor',
  '__proto__',
  'toString',
  'prototype',
  'id',
  'version',
  'a\0',
  '\ud800',
  '',
  '0',
  'x'.repeat(300),
];

const isHolder = (value: Json): value is Json[] | Record<string, Json> => typeof value === 'object' && value !== null;

/** Sets an own entry, `__proto__` among the keys. */
function put(holder: Json[] | Record<string, Json>, key: string | number, value: Json): void {
  Object.defineProperty(holder, key, { value, enumerable: true, configurable: true, writable: true });
}

/** The value with 1 to 5 entries anywhere in it replaced, removed, renamed, doubled or nested deep. Works on a copy. */
export function tamperedWith(value: Json, random: SeededRandom): Json {
  const root = { value: structuredClone(value) };
  const below = (end: number) => Math.floor(random.uniform() * end);
  const pick = <T>(list: readonly T[]): T => list[below(list.length)]!;
  for (let flaw = 1 + below(5); flaw > 0; flaw--) {
    let holder: Json[] | Record<string, Json> = root;
    let key: string = 'value';
    for (let depth = below(7); depth >= 0; depth--) {
      const inside: Json = (holder as Record<string, Json>)[key];
      if (!isHolder(inside) || Object.keys(inside).length === 0) break;
      holder = inside;
      key = pick(Object.keys(inside));
    }
    const old = Array.isArray(holder) ? holder[Number(key)] : holder[key];
    switch (below(6)) {
      case 0:
      case 1:
        put(holder, key, structuredClone(pick(HOSTILE)));
        break;
      case 2:
        if (holder !== root) delete (holder as Record<string, Json>)[key];
        break;
      case 3:
        put(holder, pick(KEYS), structuredClone(old));
        break;
      case 4:
        put(holder, key, [old, structuredClone(old)]);
        break;
      default: {
        let nested: Json = old;
        for (let depth = pick([2, 20, 63, 500]); depth > 0; depth--) nested = depth % 2 ? [nested] : { nested };
        put(holder, key, nested);
      }
    }
  }
  return root.value;
}
