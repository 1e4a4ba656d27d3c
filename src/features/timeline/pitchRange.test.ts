import type { PitchCourse } from '@/core/analysis/pitch';
import { hzOfKey } from '@/core/math/keys';
import { SeededRandom } from '@/core/math/random';
import { newClip } from '@/core/session/records/factories';
import type { Clip } from '@/core/session/records/clips';
import { scaleOf } from '@/core/session/scales';
import { pitchLine, rangeWords } from './pitchRange';

const D_DORIAN = scaleOf({ keyTonic: 'D', keyMode: 'dorian' });
const HEIGHT = 200;

/** Keys look by look, 0 for no voice. */
const course = (keys: readonly number[]): PitchCourse => ({
  hopSeconds: 0.01,
  hz: Float64Array.from(keys, (key) => (key > 0 ? hzOfKey(key) : 0)),
  confidence: Float64Array.from(keys, () => 1),
});
const clip = (values: Partial<Clip>): Clip => ({
  ...newClip({
    id: 'c',
    trackId: 't',
    source: { kind: 'sound', assetId: 'x' },
    name: 'c',
    startBeat: 0,
    lengthSeconds: 1,
  }),
  ...values,
});
const held = (key: number, looks: number) => Array.from({ length: looks }, () => key);

/** The points of a path, and which of them begin a line. */
const points = (path: string) =>
  [...path.matchAll(/([ML])([\d.-]+) ([\d.-]+)/g)].map(([, way, x, y]) => ({
    begins: way === 'M',
    x: Number(x),
    y: Number(y),
  }));

describe('the pitch on a clip', () => {
  it('lies on the row of its key, from where the clip begins in its sound', () => {
    const sound = course([...held(62, 100), ...held(69, 100)]);
    const line = pitchLine(sound, clip({ offsetSeconds: 0.5, lengthSeconds: 1 }), 300, HEIGHT, D_DORIAN)!;
    const row = (key: number) => line.rows.find((one) => one.key === key)!.y;
    const drawn = points(line.path);
    expect(drawn[0]).toMatchObject({ begins: true, x: 0 });
    expect(drawn[0]!.y).toBeCloseTo(row(62), 0);
    const second = drawn.findIndex(({ begins }, n) => n > 0 && begins);
    expect(drawn[second]!.x).toBeCloseTo(150, 0);
    expect(drawn[second]!.y).toBeCloseTo(row(69), 0);
    expect(drawn.at(-1)!.x).toBeCloseTo(300, 0);
  });

  it('runs the other way in a clip that is reversed', () => {
    const sound = course([...held(62, 30), ...held(69, 70)]);
    const [ahead, back] = [false, true].map((reversed) =>
      points(pitchLine(sound, clip({ reversed }), 100, HEIGHT, D_DORIAN)!.path).map(({ x, y }) => [x, y]),
    );
    const mirrored = back!.map(([x, y]) => [100 - x!, y!]).sort((a, b) => a[0]! - b[0]!);
    ahead!.forEach(([x, y], n) => {
      expect(mirrored[n]![0]).toBeCloseTo(x!, 1);
      expect(mirrored[n]![1]).toBeCloseTo(y!, 1);
    });
  });

  it('breaks where nothing is sung and where it leaps, and goes on through a glide', () => {
    const glide = Array.from({ length: 20 }, (_, n) => 62 + n / 4);
    const line = pitchLine(
      course([...held(62, 20), ...held(0, 10), ...glide, ...held(74, 20)]),
      clip({}),
      100,
      HEIGHT,
      D_DORIAN,
    )!;
    const begins = points(line.path).filter((one) => one.begins);
    expect(begins.map(({ x }) => Math.round(x))).toEqual([0, 30, 50]);
  });

  it('has rows of the key alone; the tonic is always named, no name is on another nor under the clip’s own', () => {
    const random = new SeededRandom(3);
    for (let round = 0; round < 40; round++) {
      const height = 40 + 260 * random.uniform();
      const low = 40 + 30 * random.uniform();
      const keys = Array.from({ length: 100 }, () => low + 24 * random.uniform());
      const { rows } = pitchLine(course(keys), clip({}), 100, height, D_DORIAN)!;
      for (const { key, y } of rows) {
        expect([2, 4, 5, 7, 9, 11, 0]).toContain(key % 12);
        expect(y).toBeGreaterThanOrEqual(0);
        expect(y).toBeLessThanOrEqual(height);
      }
      const named = rows.filter(({ name }) => name !== null);
      named.slice(1).forEach(({ y }, n) => expect(named[n]!.y - y).toBeGreaterThanOrEqual(11));
      for (const { y } of named) expect(y).toBeLessThanOrEqual(height - 18);
      const tonics = rows.filter(({ key, y }) => key % 12 === 2 && y > 6 && y < height - 24);
      // Octaves of it that are too near to one another share a name.
      if (tonics.length > 0) expect(named.some(({ key }) => key % 12 === 2)).toBe(true);
    }
  });

  it('says from where to where it goes, without strays; and nothing where nothing is sung', () => {
    const sound = course([...held(55, 40), ...held(31, 1), ...held(64, 40), ...held(0, 19)]);
    expect(rangeWords(sound, clip({}))).toBe('G3 to E4');
    expect(rangeWords(sound, clip({ lengthSeconds: 0.3 }))).toBe('G3');
    expect(rangeWords(sound, clip({ offsetSeconds: 0.82, lengthSeconds: 0.1 }))).toBeNull();
    expect(pitchLine(sound, clip({ offsetSeconds: 0.82, lengthSeconds: 0.1 }), 100, HEIGHT, D_DORIAN)).toBeNull();
    expect(pitchLine(course([]), clip({}), 100, HEIGHT, D_DORIAN)).toBeNull();
  });
});
