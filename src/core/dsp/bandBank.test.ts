import { thinned } from '../../../test/support/sweep';
import fc from 'fast-check';
import { amplitudeAt, db, RATES } from '../../../test/support/render';
import { exp, log } from '../math/elementary';
import { SeededRandom } from '../math/random';
import { Arena, type Doubles } from '../wasm/arena';
import { BandBank } from './bandBank';
import { bandCentres, bandEdges, SPACINGS, type BandLayout } from './bandLayout';
import { followTwin, newStates, weighTwin } from '../wasm/twins/bandBank';
import { bandPassAt, designBandPass } from './bandPass';

let memory = new Arena();
beforeEach(() => {
  memory = new Arena();
});
afterEach(() => memory.free());

const layouts = fc.record({
  bands: fc.integer({ min: 4, max: 64 }),
  order: fc.constantFrom(2, 4, 6, 8),
  spacing: fc.constantFrom(...SPACINGS),
  lowHz: fc.integer({ min: 60, max: 300 }),
  highHz: fc.integer({ min: 3000, max: 14000 }),
  bandwidth: fc.double({ min: 0.25, max: 4, noNaN: true }),
});

describe('a band-pass', () => {
  it.each(RATES)('is 0 dB in its middle, 3 dB down at its edges, and falls by its order, at %d Hz', (rate) => {
    for (const order of [2, 4, 6, 8]) {
      for (const [low, high] of [
        [90, 120],
        [900, 1300],
        [300, 2400],
      ] as const) {
        const band = designBandPass(low, high, order, rate);
        expect(band.sections).toHaveLength(order / 2);
        expect(db(bandPassAt(band, Math.sqrt(low * high), rate))).toBeCloseTo(0, 1);
        expect(db(bandPassAt(band, low, rate))).toBeCloseTo(-3.01, 2);
        expect(db(bandPassAt(band, high, rate))).toBeCloseTo(-3.01, 2);
        const far = db(bandPassAt(band, low / 16, rate)) - db(bandPassAt(band, low / 32, rate));
        expect(far).toBeCloseTo(3.01 * order, 0);
        for (const { a1, a2 } of band.sections) {
          expect(a2).toBeLessThan(1);
          expect(Math.abs(a1)).toBeLessThan(1 + a2);
        }
      }
    }
  });
});

describe('a bank of bands', () => {
  it('divides from edge to edge on every scale', () => {
    for (const spacing of SPACINGS) {
      const layout: BandLayout = { bands: 16, order: 4, spacing, lowHz: 80, highHz: 10000, bandwidth: 1 };
      const edges = bandEdges(layout);
      expect(edges[0]).toBeCloseTo(80, 6);
      expect(edges[16]).toBeCloseTo(10000, 6);
      const centres = bandCentres(layout);
      expect(centres.every((hz, n) => hz > edges[n]! && hz < edges[n + 1]!)).toBe(true);
    }
  });

  it('gives the bits of its bands in TypeScript, over random divisions', () => {
    const random = new SeededRandom(5);
    fc.assert(
      fc.property(layouts, (layout) => {
        const own = new Arena();
        const bank = new BandBank(own, 48000);
        bank.divide(layout);
        const edges = bandEdges(layout);
        const bands = Array.from({ length: layout.bands }, (_, n) => {
          const centre = Math.sqrt(edges[n]! * edges[n + 1]!);
          const edge = (hz: number) => centre * exp(layout.bandwidth * log(hz / centre));
          return designBandPass(edge(edges[n]!), edge(edges[n + 1]!), layout.order, 48000);
        });
        const twins = bands.map((band) => ({ band, voice: newStates(band), carrier: newStates(band), level: 0 }));
        const [input, carrier] = [own.doubles(128), own.doubles(128)];
        const [out, other] = [own.doubles(128), own.doubles(128)];
        const rates = bands.map(() => [0.02 * random.uniform(), 0.001 * random.uniform()] as const);
        rates.forEach(([rise, fall], n) => bank.setRates(n, rise, fall));
        for (const frames of [128, 7, 64]) {
          for (let i = 0; i < 128; i++) {
            input[i] = random.bipolar();
            carrier[i] = random.bipolar();
          }
          bank.follow(input, frames);
          bank.weigh(carrier, input, out, other, false, frames);
          const sums = Array.from({ length: frames }, () => [0, 0, 0, 0]);
          twins.forEach((twin, n) => {
            const levels: number[] = [];
            const [rise, fall] = rates[n]!;
            twin.level = followTwin(twin.band, twin.voice, twin.level, rise, fall, input.subarray(0, frames), levels);
            weighTwin(twin.band, twin.carrier, carrier.subarray(0, frames), levels).forEach((y, i) => {
              sums[i]![n & 3] = Math.fround(sums[i]![n & 3]! + y);
            });
            expect(bank.levelOf(n)).toBe(twin.level);
          });
          sums.forEach(([a, b, c, d], i) => expect(out[i]).toBe(a! + b! + (c! + d!)));
        }
        own.free();
      }),
      { numRuns: thinned(12) },
    );
  });

  it.each([
    ['thirds of an octave from 90 Hz', { bands: 21, lowHz: 90, highHz: 11500, bandwidth: 1 }, -75],
    ['narrow ones from 40 Hz', { bands: 64, lowHz: 40, highHz: 4000, bandwidth: 0.25 }, -50],
  ] as const)('rounds to single precision far under its bands: %s', (_, division, mostDb) => {
    const random = new SeededRandom(17);
    for (const order of [2, 4, 6, 8]) {
      const layout: BandLayout = { ...division, order, spacing: 'logarithmic' };
      const edges = bandEdges(layout);
      const sound = Float32Array.from({ length: 48000 }, () => random.bipolar());
      for (const n of [0, 5, layout.bands - 1]) {
        const bank = new BandBank(memory, 48000);
        bank.divide(layout);
        for (let band = 0; band < layout.bands; band++) {
          bank.setRates(band, 0, 0);
          bank.setLevel(band, band === n ? 1 : 0);
        }
        const [input, silence, out, other] = Array.from({ length: 4 }, () => memory.doubles(128)) as [
          Doubles,
          Doubles,
          Doubles,
          Doubles,
        ];
        const centre = Math.sqrt(edges[n]! * edges[n + 1]!);
        const edge = (hz: number) => centre * exp(layout.bandwidth * log(hz / centre));
        const { sections, gain } = designBandPass(edge(edges[n]!), edge(edges[n + 1]!), order, 48000);
        // The same in double precision, with the figures that single precision can hold.
        const states = sections.map(() => [0, 0]);
        let [error, power] = [0, 0];
        for (let at = 0; at + 128 <= sound.length; at += 128) {
          input.set(sound.subarray(at, at + 128));
          bank.follow(silence, 128);
          bank.weigh(input, silence, out, other, false, 128);
          for (let i = 0; i < 128; i++) {
            let x = sound[at + i]!;
            sections.forEach(({ a1, a2 }, k) => {
              const state = states[k]!;
              const y = x - state[0]!;
              state[0] = state[1]! + Math.fround(a1) * y;
              state[1] = x + Math.fround(a2) * y;
              x = y;
            });
            error += (out[i]! - gain * x) ** 2;
            power += (gain * x) ** 2;
          }
        }
        expect(db(Math.sqrt(error / power))).toBeLessThan(mostDb);
      }
    }
  });

  it('moves levels by whole bands and parts of one', () => {
    const bank = new BandBank(memory, 48000);
    bank.divide({ bands: 8, order: 4, spacing: 'logarithmic', lowHz: 100, highHz: 8000, bandwidth: 1 });
    for (let n = 0; n < 8; n++) bank.setRates(n, 0, 0);
    for (let n = 0; n < 8; n++) bank.setLevel(n, n + 1);
    const [silence, click] = [memory.doubles(128), memory.doubles(128)];
    const [out, other] = [memory.doubles(128), memory.doubles(128)];
    const outputs = (shift: number | null) => {
      bank.reset();
      for (let n = 0; n < 8; n++) bank.setLevel(n, n === 3 ? 1 : 0);
      click.fill(0);
      const sound = new Float32Array(4096);
      for (let at = 0; at < 4096; at += 128) {
        click[0] = at === 0 ? 1 : 0;
        bank.follow(silence, 128);
        for (let n = 0; n < 8; n++) bank.aimPlace(n, n - (shift ?? 0), 0, 0);
        bank.shift(0, 128);
        bank.weigh(click, silence, out, other, shift !== null, 128);
        sound.set(out, at);
      }
      return sound;
    };
    const centres = bandCentres({ bands: 8, order: 4, spacing: 'logarithmic', lowHz: 100, highHz: 8000, bandwidth: 1 });
    const at = (sound: Float32Array, band: number) => {
      const padded = new Float32Array(8192);
      padded.set(sound, 4096);
      return amplitudeAt(padded, centres[band]!, 48000);
    };
    const plain = outputs(null);
    expect(at(plain, 3)).toBeGreaterThan(5 * at(plain, 5));
    const moved = outputs(2);
    expect(at(moved, 5)).toBeGreaterThan(5 * at(moved, 3));
    const between = outputs(0.5);
    expect(Math.abs(db(at(between, 3) / at(between, 4)))).toBeLessThan(3);
  });

  it('stays finite over random divisions and full-scale noise', () => {
    const random = new SeededRandom(8);
    fc.assert(
      fc.property(layouts, fc.constantFrom(...RATES), (layout, rate) => {
        const own = new Arena();
        const bank = new BandBank(own, rate);
        bank.divide(layout);
        for (let n = 0; n < layout.bands; n++) bank.setRates(n, 0.01, 0.001);
        const [input, silence, out, other] = Array.from({ length: 4 }, () => own.doubles(128)) as [
          Doubles,
          Doubles,
          Doubles,
          Doubles,
        ];
        let most = 0;
        for (let block = 0; block < 60; block++) {
          for (let i = 0; i < 128; i++) input[i] = random.bipolar();
          bank.follow(input, 128);
          bank.weigh(silence, input, other, out, false, 128);
          for (const x of out) most = Math.max(most, Math.abs(x));
        }
        own.free();
        expect(most).toBeGreaterThan(1e-4);
        expect(most).toBeLessThan(layout.bands * 4);
      }),
      { numRuns: thinned(20) },
    );
  });
});
