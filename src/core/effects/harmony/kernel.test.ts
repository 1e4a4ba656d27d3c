import { drawn, thinned } from '../../../../test/support/sweep';
import fc from 'fast-check';
import { amplitudeAt, db, kernelOf, largest, RATES, run, setValue, readMeter } from '../../../../test/support/render';
import { alone } from '../../../../test/support/harmony';
import { shipped } from '../../../../test/support/shipped';
import { SeededRandom } from '../../math/random';
import { harmonySpec, MOST_HARMONIES } from './spec';

const FORMANTS = [
  [700, 90],
  [1220, 110],
  [2600, 160],
] as const;

/** Amplitude of a vowel at a frequency: three resonances on a falling source. */
const vowelAt = (hz: number) =>
  FORMANTS.reduce(
    (sum, [centre, width]) => sum + 1 / Math.hypot(1 - (hz / centre) ** 2, (hz * width) / centre ** 2),
    0,
  ) /
  (1 + hz / 500);

/** A vowel sung at a pitch that may move, all harmonics in phase at the opening of the mouth. */
function vowel(rate: number, seconds: number, hzAt: (second: number) => number): Float32Array {
  const sound = new Float32Array(Math.round(seconds * rate));
  let phase = 0;
  for (let n = 0; n < sound.length; n++) {
    const hz = hzAt(n / rate);
    let sum = 0;
    for (let k = 1; k * hz < 6000; k++) sum += vowelAt(k * hz) * Math.cos(2 * Math.PI * k * phase);
    sound[n] = 0.02 * sum;
    phase = (phase + hz / rate) % 1;
  }
  return sound;
}

const METHODS = ['voice', 'polyphonic'];

/** The pitch of a steady sound near one, in cents from it, by the phases of its harmonics. */
function centsOff(sound: Float32Array, hz: number, rate: number): number {
  // The frequency at which the harmonics together are strongest.
  const strength = (cents: number) => {
    const at = hz * 2 ** (cents / 1200);
    let sum = 0;
    for (let k = 1; k <= 4; k++) sum += amplitudeAt(sound, k * at, rate) ** 2;
    return sum;
  };
  let best = 0;
  for (const step of [10, 3, 1, 0.3]) {
    for (const cents of [best - 2 * step, best - step, best + step, best + 2 * step]) {
      if (strength(cents) > strength(best)) best = cents;
    }
  }
  return best;
}

const latency = (kernel: { latencyFrames: number }) => kernel.latencyFrames;

describe('harmonies', () => {
  it.each(METHODS)('by %s, are 1 to 12 semitones away within 3 cents, at all rates', (method) => {
    for (const rate of RATES) {
      const intervals = rate === 48000 ? [-12, -7, -1, 1, 4, 9, 12] : [-7, 5];
      for (const interval of drawn(`${method} at ${rate}`, intervals)) {
        const hz = method === 'voice' ? 196 : 247;
        const sound = vowel(rate, 0.85, () => hz);
        const { left } = run(kernelOf('harmony', alone({ method, 'voices.1.interval': interval }), rate), sound);
        const off = centsOff(
          left.subarray(Math.round(0.4 * rate), Math.round(0.8 * rate)),
          hz * 2 ** (interval / 12),
          rate,
        );
        expect([rate, interval, Math.abs(off) < 3]).toEqual([rate, interval, true]);
      }
    }
  });

  it('keep formants within 5 % at 7 semitones up and down, and move them where that is asked for', () => {
    const rate = 48000;
    // The pitch wanders, so that its harmonics tell the whole spectrum.
    const sound = vowel(rate, 2.4, (t) => 130 + 25 * Math.sin(2 * Math.PI * 0.7 * t));
    const peaks = (heard: Float32Array, by = 1) =>
      FORMANTS.map(([hz]) => {
        let [sum, weight] = [0, 0];
        for (let f = 0.82 * hz * by; f < 1.18 * hz * by; f += 14) {
          let power = 0;
          for (let at = 24000; at + 4096 <= heard.length; at += 4096) {
            power += amplitudeAt(heard.subarray(at, at + 4096), f, rate) ** 2;
          }
          sum += f * power ** 2;
          weight += power ** 2;
        }
        return sum / weight;
      });
    const source = peaks(sound);
    for (const [method, interval] of drawn(
      'formants',
      METHODS.flatMap((method) => [-7, 7].map((interval) => [method, interval] as const)),
    )) {
      {
        const { left } = run(kernelOf('harmony', alone({ method, 'voices.1.interval': interval })), sound);
        peaks(left).forEach((hz, n) => {
          expect([method, interval, n, Math.abs(hz / source[n]! - 1) < 0.05]).toEqual([method, interval, n, true]);
        });
      }
    }
    const { left } = run(kernelOf('harmony', alone({ 'voices.1.interval': 0, 'voices.1.formant': 4 })), sound);
    const by = 2 ** (4 / 12);
    peaks(left, by).forEach((hz, n) => expect(Math.abs(hz / (by * source[n]!) - 1)).toBeLessThan(0.06));
  });

  it('are late by what is told and no more: a voice at the source’s own pitch is the source', () => {
    for (const rate of RATES) {
      for (const method of METHODS) {
        const kernel = kernelOf('harmony', alone({ method, 'voices.1.interval': 0 }), rate);
        if (method === 'voice') expect(latency(kernel) / rate).toBeLessThan(0.05);
        const sound = vowel(rate, 0.8, () => 180);
        const { left } = run(kernel, sound);
        let [error, power] = [0, 0];
        for (let n = Math.round(0.3 * rate); n < Math.round(0.6 * rate); n++) {
          error += (left[n + latency(kernel)]! - sound[n]!) ** 2;
          power += sound[n]! ** 2;
        }
        expect(10 * Math.log10(error / power)).toBeLessThan(-25);
      }
    }
  });

  it('leave the dry sound alone at 0 %, late by the same', () => {
    for (const method of METHODS) {
      const random = new SeededRandom(2);
      const sound = Float32Array.from({ length: 24000 }, () => random.bipolar());
      const kernel = kernelOf('harmony', { method, mix: 0 });
      const { left, right } = run(
        kernel,
        sound,
        sound.map((x) => -0.5 * x),
      );
      const late = latency(kernel);
      expect([...left.subarray(late)]).toEqual([...sound.subarray(0, sound.length - late)]);
      expect(right[late + 100]).toBe(Math.fround(-0.5 * sound[100]!));
    }
  });

  it('sing steps of the key, and another key from where its lane says', () => {
    const sound = vowel(48000, 2.4, () => 293.66);
    const kernel = kernelOf(
      'harmony',
      alone({ 'voices.1.follow': 'degrees', 'voices.1.degrees': 2, key: 'D', scale: 'dorian' }),
    );
    const { left } = run(kernel, sound, undefined, [128], (frame) => {
      // In D major the third above D is F sharp; in dorian it is F.
      if (frame === 57600) setValue(kernel, 'harmony', 'scale', 'major');
    });
    const near = (from: number, to: number, hz: number) => amplitudeAt(left.subarray(from, to), hz, 48000);
    expect(near(24000, 57600, 349.2)).toBeGreaterThan(5 * near(24000, 57600, 370));
    expect(near(67200, 110000, 370)).toBeGreaterThan(5 * near(67200, 110000, 349.2));
    // The change is heard where it was made: the latency after, and no sooner.
    const change = 57600 + latency(kernel);
    expect(near(change - 6000, change - 500, 349.2)).toBeGreaterThan(3 * near(change - 6000, change - 500, 370));
  });

  it('sing notes from the lowest up, and nothing without them', () => {
    const sound = vowel(48000, 1.6, () => 220);
    const kernel = kernelOf(
      'harmony',
      alone({
        'voices.1.follow': 'notes',
        'voices.2.on': true,
        'voices.2.follow': 'notes',
        'voices.2.humanize': 0,
        'voices.2.glide': 0,
      }),
    );
    const { left } = run(kernel, sound, undefined, [128], (frame) => {
      if (frame === 24064) {
        kernel.handleEvent!({ kind: 'noteOn', key: 64, velocity: 1 }, 0);
        kernel.handleEvent!({ kind: 'noteOn', key: 59, velocity: 1 }, 0);
      }
      if (frame === 57600) kernel.handleEvent!({ kind: 'noteOff', key: 64 }, 0);
    });
    const late = latency(kernel);
    expect(largest(left.subarray(4800, 24064 + late))).toBeLessThan(1e-3);
    const at = (from: number, to: number, key: number) =>
      amplitudeAt(left.subarray(from, to), 440 * 2 ** ((key - 69) / 12), 48000);
    expect(at(31200, 57600, 59)).toBeGreaterThan(0.01);
    expect(at(31200, 57600, 64)).toBeGreaterThan(0.01);
    expect(at(64000, 76000, 64)).toBeLessThan(0.1 * at(31200, 57600, 64));
    expect(
      readMeter(kernel, 'harmony', 'pitch')
        .slice(1, 3)
        .map((hz) => Math.round(12 * Math.log2(hz / 440) + 69)),
    ).toEqual([59, NaN]);
  });

  it('snap the source to the key by as much as is set', () => {
    const sharp = 440 * 2 ** (0.3 / 12);
    const sound = vowel(48000, 1.4, () => sharp / 2);
    for (const snap of [0, 50, 100]) {
      const values = { 'voices.1.on': false, key: 'A', scale: 'major', snap, snapSpeed: 20, dry: 0, mix: 100 };
      const { left } = run(kernelOf('harmony', values), sound);
      const off = centsOff(left.subarray(24000, 48000), 220, 48000);
      expect(Math.abs(off - 30 * (1 - snap / 100))).toBeLessThan(3);
    }
  });

  it('have consonants as they are, or leave them out', async () => {
    const random = new SeededRandom(7);
    const hiss = Float32Array.from({ length: 48000 }, (_, n) => (n > 12000 && n < 36000 ? 0.2 * random.bipolar() : 0));
    const power = (sound: Float32Array, late: number) =>
      10 * Math.log10(sound.subarray(14400 + late, 33600 + late).reduce((sum, x) => sum + x * x, 0));
    for (const interval of [-12, 7]) {
      const kernel = kernelOf('harmony', alone({ 'voices.1.interval': interval }));
      const { left } = run(kernel, hiss);
      expect(Math.abs(power(left, latency(kernel)) - power(hiss, 0))).toBeLessThan(2);
    }
    const without = run(kernelOf('harmony', alone({ consonants: false })), hiss).left;
    expect(largest(without)).toBeLessThan(0.02);
    // The same on speech: what lies above 5 kHz is no less and no more of it.
    const voice = await shipped('announcer.flac', 48000, 4);
    const kernel = kernelOf('harmony', alone({ 'voices.1.interval': 5 }));
    const { left } = run(kernel, voice);
    const hissOf = (sound: Float32Array) => {
      let sum = 0;
      for (let n = 2; n < sound.length; n++) sum += (sound[n]! - 2 * sound[n - 1]! + sound[n - 2]!) ** 2;
      return 10 * Math.log10(sum);
    };
    expect(Math.abs(hissOf(left) - hissOf(voice))).toBeLessThan(2);
  });

  it('of a sung voice, stand out from what lies between their harmonics', async () => {
    const voice = await shipped('lamp-keeper.flac', 48000, 5);
    const ratios: number[] = [];
    for (const interval of [-5, 4, 7]) {
      const kernel = kernelOf('harmony', alone({ 'voices.1.interval': interval }));
      const pitches: number[] = [];
      const { left } = run(kernel, voice, undefined, [128], () => {
        const out = new Float64Array(1 + MOST_HARMONIES);
        kernel.readMeters!(out);
        pitches.push(out[1]!);
      });
      for (let block = 100; block + 16 < pitches.length; block += 16) {
        const around = pitches.slice(block, block + 16);
        const [low, high] = [Math.min(...around), Math.max(...around)];
        // Harmonics can be told from the noise between them only while the pitch is steady.
        if (!(high / low < 1.006)) continue;
        const piece = left.subarray(block * 128, (block + 16) * 128);
        const hz = around[8]!;
        if (largest(piece) < 0.05) continue;
        let [on, between] = [0, 0];
        for (let k = 1; k * hz < 2500; k++) {
          on += amplitudeAt(piece, k * hz, 48000) ** 2;
          if (hz > 110) between += amplitudeAt(piece, (k + 0.5) * hz, 48000) ** 2;
        }
        ratios.push(10 * Math.log10(on / between));
      }
    }
    ratios.sort((a, b) => a - b);
    expect(ratios.length).toBeGreaterThan(30);
    expect(ratios[ratios.length >> 1]!).toBeGreaterThan(15);
  });

  it('of chords, keep an attack together: within 10 ms lies nearly all of it', () => {
    for (const interval of [-7, 7]) {
      for (const place of [20000, 20300, 20700]) {
        const sound = new Float32Array(48000);
        const random = new SeededRandom(place);
        for (let n = 0; n < 96; n++) sound[place + n] = random.bipolar() * (1 - n / 96);
        const kernel = kernelOf('harmony', alone({ method: 'polyphonic', 'voices.1.interval': interval }));
        const { left } = run(kernel, sound);
        const all = left.reduce((sum, x) => sum + x * x, 0);
        let most = 0;
        for (let at = 0; at + 480 < left.length; at += 48) {
          most = Math.max(
            most,
            left.subarray(at, at + 480).reduce((sum, x) => sum + x * x, 0),
          );
        }
        expect([interval, place, most / all > 0.85]).toEqual([interval, place, true]);
      }
    }
  });

  it('of chords, move every note of them', () => {
    const keys = [57, 60, 64];
    const hz = (key: number) => 440 * 2 ** ((key - 69) / 12);
    const sound = Float32Array.from({ length: 72000 }, (_, n) => {
      let sum = 0;
      for (const key of keys) for (let k = 1; k < 12; k++) sum += Math.sin((2 * Math.PI * k * hz(key) * n) / 48000) / k;
      return 0.1 * sum;
    });
    const { left } = run(kernelOf('harmony', alone({ method: 'polyphonic', 'voices.1.interval': 5 })), sound);
    const piece = left.subarray(24000);
    for (const key of keys) {
      expect(Math.abs(db(amplitudeAt(piece, hz(key + 5), 48000) / 0.1))).toBeLessThan(6);
      expect(db(amplitudeAt(piece, hz(key), 48000) / 0.1)).toBeLessThan(-30);
    }
  });

  it('drift each by itself when they are loose', () => {
    const sound = vowel(48000, 1.2, () => 200);
    const voice = (n: number) => ({
      [`voices.${n}.on`]: true,
      [`voices.${n}.follow`]: 'interval',
      [`voices.${n}.interval`]: 0,
      [`voices.${n}.humanize`]: 100,
      [`voices.${n}.pan`]: n === 1 ? -100 : 100,
    });
    const { left, right } = run(kernelOf('harmony', { ...voice(1), ...voice(2), mix: 100 }), sound);
    const [a, b] = [left.subarray(24000), right.subarray(24000)];
    const product = a.reduce((sum, x, n) => sum + x * b[n]!, 0);
    const power = (x: Float32Array) => Math.sqrt(x.reduce((sum, y) => sum + y * y, 0));
    expect(Math.abs(product / (power(a) * power(b)))).toBeLessThan(0.95);
  });

  it('stay finite and within bounds over random settings, with everything changing under a voice', async () => {
    const voice = (await shipped('lamp-keeper.flac')).subarray(0, 36000);
    const settings = fc.record({
      method: fc.constantFrom(...METHODS),
      key: fc.constantFrom('session', 'F#'),
      scale: fc.constantFrom('session', 'locrian', 'chromatic'),
      detectLow: fc.constantFrom(60, 300),
      detectHigh: fc.constantFrom(300, 1500),
      consonants: fc.boolean(),
      snap: fc.integer({ min: 0, max: 100 }),
      snapSpeed: fc.constantFrom(0, 500),
      'voices.1.interval': fc.integer({ min: -24, max: 24 }),
      'voices.1.follow': fc.constantFrom('interval', 'degrees', 'notes'),
      'voices.1.formant': fc.integer({ min: -12, max: 12 }),
      'voices.1.delay': fc.constantFrom(0, 200),
      'voices.2.on': fc.boolean(),
      'voices.2.degrees': fc.integer({ min: -14, max: 14 }),
      'voices.6.on': fc.boolean(),
    });
    fc.assert(
      fc.property(settings, settings, fc.constantFrom(...RATES), (first, second, rate) => {
        const kernel = kernelOf('harmony', first, rate);
        run(kernel, voice);
        for (const [id, value] of Object.entries(second)) setValue(kernel, 'harmony', id, value);
        kernel.handleEvent!({ kind: 'noteOn', key: 62, velocity: 1 }, 0);
        const { left, right } = run(kernel, voice);
        expect(Math.max(largest(left), largest(right))).toBeLessThan(6);
        expect(left.every((x) => Number.isFinite(x))).toBe(true);
      }),
      { numRuns: thinned(15) },
    );
  });

  it('bring the source back among them when snap is turned up by hand', () => {
    const change = harmonySpec.completes!({ snap: 0, dry: -60 }, { snap: 40 }, () => 0);
    expect(change).toEqual({ snap: 40, dry: 0, mix: 100 });
    expect(harmonySpec.completes!({ snap: 20, dry: -60 }, { snap: 40 }, () => 0)).toEqual({ snap: 40 });
  });
});
