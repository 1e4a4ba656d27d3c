import { SeededRandom } from '../math/random';
import { Arena, heapOfThread, withArena } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { BlockFourier } from './blockFourier';
import { FourierTransform } from './fft';
import { FilterPair } from './filterPair';
import { guardHeard } from './guard';
import { Narrowing } from './narrowing';
import { StateVariableFilter, type FilterType } from './stateVariableFilter';

const memory = new Arena();
afterAll(() => memory.free());
const random = new SeededRandom(31);
const block = (length = 128) => {
  const made = memory.doubles(length);
  for (let n = 0; n < length; n++) made[n] = 2.5 * random.bipolar();
  return made;
};

describe('block operations in WebAssembly give the bits of the same in TypeScript', () => {
  it.each([4, 8, 64, 256, 1024, 4096, 16384])('transform of %d', (size) => {
    const [re, im] = [block(size), block(size)];
    const [reTwin, imTwin] = [re.slice(), im.slice()];
    new BlockFourier(size).forward(re, im);
    new FourierTransform(size).forward(reTwin, imTwin);
    expect(re.findIndex((x, n) => x !== reTwin[n])).toBe(-1);
    expect(im.findIndex((x, n) => x !== imTwin[n])).toBe(-1);
  });

  it('a long transform takes its tables from memory that is lent to it, and leaves nothing there', () => {
    const size = 1 << 17;
    const whole = { re: Float64Array.from(block(size)), im: Float64Array.from(block(size)) };
    const around = heapOfThread().freeBytes;
    const { re, im } = withArena((lent) => {
      const parts = { re: lent.doubles(size), im: lent.doubles(size) };
      parts.re.set(whole.re);
      parts.im.set(whole.im);
      new BlockFourier(size, lent).forward(parts.re, parts.im);
      return { re: parts.re.slice(), im: parts.im.slice() };
    });
    new FourierTransform(size).forward(whole.re, whole.im);
    expect(re.findIndex((x, n) => x !== whole.re[n])).toBe(-1);
    expect(im.findIndex((x, n) => x !== whole.im[n])).toBe(-1);
    expect(heapOfThread().freeBytes).toBe(around);
    const givenUp = () =>
      withArena((lent) => {
        lent.doubles(size);
        throw new Error('given up');
      });
    expect(givenUp).toThrow('given up');
    expect(heapOfThread().freeBytes).toBe(around);
  });

  it('refuses a transform whose size is no power of two', () => {
    expect(() => new BlockFourier(96)).toThrow('96');
  });

  it.each(['lowPass', 'highPass', 'bandPass', 'notch'] as FilterType[])(
    '%s of two channels, each tuned apart',
    (type) => {
      const pair = new FilterPair(memory, 48000);
      const twins = [new StateVariableFilter(48000), new StateVariableFilter(48000)];
      for (let turn = 0; turn < 20; turn++) {
        const frames = 1 + Math.floor(random.uniform() * 128);
        const channels = [block(), block()] as const;
        const expected = channels.map((channel) => channel.slice());
        twins.forEach((twin, n) => {
          const hz = 20 * 1000 ** random.uniform();
          const q = 0.3 + 5 * random.uniform();
          pair.configure(n as 0 | 1, type, hz, q);
          twin.configure(type, hz, q);
          twin.process(expected[n]!, frames);
        });
        pair.process(channels[0], channels[1], frames);
        channels.forEach((channel, n) => expect([...channel]).toEqual([...expected[n]!]));
      }
    },
  );

  it('a filter does what its equations say, which it works out from the frame before at once', () => {
    for (const type of ['lowPass', 'highPass', 'bandPass', 'notch'] as const) {
      for (let round = 0; round < 20; round++) {
        const rate = [44100, 48000, 96000][round % 3]!;
        const hz = 20 * 900 ** random.uniform();
        const q = 0.3 * 60 ** random.uniform();
        const filter = new StateVariableFilter(rate);
        filter.configure(type, hz, q);
        const sound = Float64Array.from({ length: 3000 }, () => random.bipolar());
        const out = sound.slice();
        filter.process(out, out.length);
        // As Simper writes them: v1 is the band, v2 the lows.
        const g = Math.tan((Math.PI * hz) / rate);
        const k = 1 / q;
        const a1 = 1 / (1 + g * (g + k));
        let [ic1, ic2] = [0, 0];
        const wanted = sound.map((v0) => {
          const v3 = v0 - ic2;
          const v1 = a1 * ic1 + g * a1 * v3;
          const v2 = ic2 + g * a1 * ic1 + g * g * a1 * v3;
          ic1 = 2 * v1 - ic1;
          ic2 = 2 * v2 - ic2;
          return { lowPass: v2, bandPass: k * v1, highPass: v0 - k * v1 - v2, notch: v0 - k * v1 }[type];
        });
        const off = Math.max(...wanted.map((y, n) => Math.abs(y - out[n]!)));
        expect(off).toBeLessThan(1e-10);
      }
    }
  });

  it('a chain of filters is the same as one after the other, and a gliding one is stepped frame by frame', () => {
    const { kernels } = wasm();
    const states = Array.from({ length: 5 }, () => memory.doubles(16));
    const places = memory.integers(5);
    const room = memory.doubles(5 * 14);
    states.forEach((state, n) => {
      for (let i = 4; i < 16; i++) state[i] = 0.2 * random.bipolar();
      places[n] = state.byteOffset;
    });
    const steps = memory.doubles(12);
    for (let i = 0; i < 12; i++) steps[i] = 0.001 * random.bipolar();
    for (const frames of [1, 7, 128]) {
      const [left, right] = [block(), block()];
      const before = states.map((state) => state.slice());
      const [l, r] = [left.slice(), right.slice()];
      kernels.filterChain(places.byteOffset, 5, room.byteOffset, left.byteOffset, right.byteOffset, frames);
      const chained = [...left, ...right];
      left.set(l);
      right.set(r);
      states.forEach((state, n) => state.set(before[n]!));
      for (const state of states) kernels.filterPair(state.byteOffset, left.byteOffset, right.byteOffset, frames);
      expect([...left, ...right]).toEqual(chained);

      const [state] = states as [(typeof states)[0]];
      const at = state.slice();
      left.set(l);
      right.set(r);
      kernels.filterGliding(state.byteOffset, steps.byteOffset, left.byteOffset, right.byteOffset, frames);
      const glided = [...left, ...right];
      state.set(at);
      left.set(l);
      right.set(r);
      for (let i = 0; i < frames; i++) {
        for (let c = 0; c < 12; c++) state[4 + c] = state[4 + c]! + steps[c]!;
        kernels.filterPair(state.byteOffset, left.byteOffset + 8 * i, right.byteOffset + 8 * i, 1);
      }
      expect([...left, ...right]).toEqual(glided);
    }
  });

  it('loss of lows and highs', () => {
    const narrowing = new Narrowing(memory, 48000);
    narrowing.tune(0, 30, 4000);
    narrowing.tune(1, 200, 9000);
    const held = [
      { high: 0, low: 0, top: 4000, bottom: 30 },
      { high: 0, low: 0, top: 9000, bottom: 200 },
    ];
    for (let turn = 0; turn < 10; turn++) {
      const frames = 1 + Math.floor(random.uniform() * 128);
      const channels = [block(), block()] as const;
      const before = channels.map((channel) => channel.slice());
      narrowing.process(channels[0], channels[1], frames);
      held.forEach((one, n) => {
        for (let i = 0; i < frames; i++) {
          one.high += (1 - Math.exp((-2 * Math.PI * one.top) / 48000)) * (before[n]![i]! - one.high);
          one.low += (1 - Math.exp((-2 * Math.PI * one.bottom) / 48000)) * (one.high - one.low);
          expect(channels[n]![i]).toBeCloseTo(one.high - one.low, 12);
        }
      });
    }
  });

  it('sums at gains, still and on the move, of any length, and nothing beyond it', () => {
    const { kernels } = wasm();
    for (let frames = 1; frames < 20; frames++) {
      const [first, second, gains, out] = [block(), block(), block(), block()] as const;
      const at = (view: Float64Array) => view.byteOffset;
      const before = out.slice();
      kernels.addScaled(at(out), at(first), 0.3, 0, frames);
      out.forEach((x, n) => expect(x).toBe(n < frames ? before[n]! + 0.3 * first[n]! : before[n]));
      kernels.mixScaled(at(out), at(first), 0, at(gains), at(second), -0.7, frames);
      for (let n = 0; n < frames; n++) expect(out[n]).toBe(first[n]! * gains[n]! + -0.7 * second[n]!);
      kernels.addScaled(at(out), at(second), 0, at(gains), frames);
      for (let n = 0; n < frames; n++) {
        expect(out[n]).toBe(first[n]! * gains[n]! + -0.7 * second[n]! + gains[n]! * second[n]!);
      }
    }
  });

  it('guarded, at a gain that moves, and with middle and side at their gains, of any length, and nothing beyond it', () => {
    const { kernels } = wasm();
    const at = (view: Float64Array) => view.byteOffset;
    for (let frames = 1; frames < 20; frames++) {
      const [left, right, out, other] = [block(), block(), block(), block()] as const;
      const [l, r, beyond] = [left.slice(), right.slice(), out.slice()];
      kernels.widen(at(left), at(right), at(out), at(other), 0.8, 1.7, frames);
      for (let n = 0; n < frames; n++) {
        const middle = 0.5 * 0.8 * (l[n]! + r[n]!);
        const side = 0.5 * 1.7 * (l[n]! - r[n]!);
        expect([out[n], other[n]]).toEqual([middle + side, middle - side]);
      }
      expect(out.subarray(frames)).toEqual(beyond.subarray(frames));
      kernels.scaleMoving(at(out), at(right), 0.3, -0.01, 37, frames);
      for (let n = 0; n < frames; n++) expect(out[n]).toBe((0.3 + -0.01 * (37 + n)) * r[n]!);
      const dry = memory.floats(20);
      for (let n = 0; n < 20; n++) dry[n] = random.bipolar();
      const kept = dry.slice();
      const [dryGains, wetGains] = [block(), block()];
      kernels.blendFloats(dry.byteOffset, at(right), at(dryGains), at(wetGains), frames);
      const blended = (n: number) => Math.fround(kept[n]! * dryGains[n]! + r[n]! * wetGains[n]!);
      dry.forEach((x, n) => expect(x).toBe(n < frames ? blended(n) : kept[n]));
      kernels.guardSides(at(left), at(right), frames);
      left.forEach((x, n) => expect(x).toBe(n < frames ? guardHeard(l[n]!) : l[n]));
      right.forEach((x, n) => expect(x).toBe(n < frames ? guardHeard(r[n]!) : r[n]));
    }
  });

  it('what is heard of a line: lifted, guarded, turned from middle and sides, at its gains', () => {
    const { kernels } = wasm();
    for (let turn = 0; turn < 40; turn++) {
      const frames = 1 + Math.floor(random.uniform() * 128);
      const [l, r, ol, or, li, si, g, m] = Array.from({ length: 8 }, (): Float64Array => block());
      const [lifted, sided, moving] = [turn & 1, turn & 2, turn & 4].map(Boolean);
      const before = [ol!.slice(), or!.slice()];
      kernels.addHeard(
        l!.byteOffset,
        r!.byteOffset,
        ol!.byteOffset,
        or!.byteOffset,
        0.4,
        -0.9,
        moving ? g!.byteOffset : 0,
        m!.byteOffset,
        lifted ? li!.byteOffset : 0,
        sided ? si!.byteOffset : 0,
        frames,
      );
      for (let n = 0; n < frames; n++) {
        const first = guardHeard(l![n]! * (lifted ? li![n]! : 1));
        const second = guardHeard(r![n]! * (lifted ? li![n]! : 1));
        const middle = sided ? si![n]! : 0;
        expect(ol![n]).toBe(before[0]![n]! + (first + middle * second) * (moving ? g![n]! : 0.4));
        expect(or![n]).toBe(before[1]![n]! + (second + middle * (first - 2 * second)) * (moving ? m![n]! : -0.9));
      }
    }
  });
});
