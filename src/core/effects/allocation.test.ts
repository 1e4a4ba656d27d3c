import { drawn } from '../../../test/support/sweep';
import { Arena } from '../wasm/arena';
import { floats, freeKernels, kernelOf } from '../../../test/support/render';
import { playEvents, randomEvents, randomValues } from '../../../test/support/randomSettings';
import { Noise } from '../dsp/noise';
import { SeededRandom } from '../math/random';
import { EFFECTS } from './registry';

const RATE = 48000;
const SECONDS = 2;
const CASES = [1, 2, 3, 4, 5];
const noise = new Noise(9);
const sound = Float32Array.from({ length: SECONDS * RATE }, () => 0.3 * noise.pink());

/** Counts what is made while something runs: typed arrays of any kind and pieces of an arena. */
function madeBy(run: () => void): string[] {
  const made: string[] = [];
  const names = ['Float32Array', 'Float64Array', 'Int32Array', 'Uint8Array', 'ArrayBuffer'] as const;
  const originals = names.map((name) => globalThis[name]);
  names.forEach((name, n) => {
    (globalThis as Record<string, unknown>)[name] = new Proxy(originals[n]!, {
      construct(target, given, self) {
        // A view of memory that is there is no new memory.
        if (!(given[0] instanceof ArrayBuffer)) made.push(`${name} of ${String(given[0])}`);
        return Reflect.construct(target, given, self) as object;
      },
    });
  });
  const takes = (['floats', 'doubles', 'integers'] as const).map((kind) =>
    jest.spyOn(Arena.prototype, kind).mockImplementation(() => {
      throw new Error(`${kind} of an arena`);
    }),
  );
  try {
    run();
  } finally {
    for (const take of takes) take.mockRestore();
    names.forEach((name, n) => {
      (globalThis as Record<string, unknown>)[name] = originals[n];
    });
  }
  return made;
}

describe('no memory is made while sound runs', () => {
  it.each(EFFECTS.map(({ id }) => [id] as const))('%s, whatever is moved and switched', (id) => {
    for (const seed of drawn(id, CASES)) {
      const random = new SeededRandom(seed * 104729);
      const kernel = kernelOf(id, randomValues(id, random), RATE);
      const events = randomEvents(id, random, sound.length, 60);
      EFFECTS.find((spec) => spec.id === id)!.parameters.forEach((_, index) => kernel.prepareAutomation?.(index));
      const there = { left: floats(sound.length), right: floats(sound.length) };
      const key = { left: floats(128), right: floats(128) };
      there.left.set(sound);
      there.right.set(sound);
      const made = madeBy(() => {
        playEvents(kernel, id, there, key, events, [128, 128, 57, 71]);
        kernel.tailSeconds();
      });
      expect({ seed, made }).toEqual({ seed, made: [] });
      freeKernels();
    }
  });
});
