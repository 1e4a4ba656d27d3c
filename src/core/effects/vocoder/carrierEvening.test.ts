import { drawn } from '../../../../test/support/sweep';
import { kernelOf, largest } from '../../../../test/support/render';
import { shipped } from '../../../../test/support/shipped';
import { speak, throughBand } from '../../../../test/support/vocoder';
import { integratedLoudness } from '../../analysis/loudness';
import { bandEdges, type BandLayout } from '../../dsp/bandLayout';
import { designBandPass } from '../../dsp/bandPass';
import { Noise } from '../../dsp/noise';
import type { ParameterValues } from '../spec';

const RATE = 48000;
/** The default division. */
const LAYOUT: BandLayout = { bands: 24, order: 6, spacing: 'bark', lowHz: 90, highHz: 10000, bandwidth: 1 };

/** Output of a vocoder for a voice, with a carrier of its own or an outside one. */
function spoken(values: ParameterValues, voice: Float32Array, carrier?: Float32Array) {
  const kernel = kernelOf('vocoder', { mix: 100, ...values, ...(carrier ? { carrier: 'key' } : {}) });
  return speak(kernel, voice, carrier);
}

/** Levels of the bank's bands over a whole sound, by the filters of the bank, in dB. */
function bandsOf(sides: readonly Float32Array[]): { hz: number; level: number }[] {
  const edges = bandEdges(LAYOUT);
  return edges.slice(1).map((high, n) => {
    const band = designBandPass(edges[n]!, high, LAYOUT.order, RATE);
    let sum = 1e-20;
    for (const side of sides) for (const x of throughBand(band, side)) sum += x * x;
    return { hz: Math.sqrt(edges[n]! * high), level: 10 * Math.log10(sum) };
  });
}

describe('a vocoder that evens its carrier', () => {
  const noise = new Noise(3);
  const outside = (level: number, at: (frame: number) => number) =>
    Float32Array.from({ length: 10 * RATE }, (_, n) => level * at(n));
  const carriers: Record<string, { values: ParameterValues; sound?: Float32Array }> = {
    'its own': { values: {} },
    'its own, dulled': { values: { carrierCutoff: 2000 } },
    'white noise': { values: {}, sound: outside(0.3, () => noise.white()) },
    'a chord': {
      values: {},
      sound: outside(0.3, (n) => [110, 138.6, 164.8].reduce((sum, hz) => sum + (((n * hz) / RATE) % 1) - 0.5, 0)),
    },
  };

  const loudness = (sides: readonly Float32Array[]) => integratedLoudness(sides, RATE);
  let voice: Float32Array;
  let wanted: ReturnType<typeof bandsOf>;
  beforeAll(async () => {
    voice = await shipped('announcer.flac', RATE, 10);
    wanted = bandsOf([voice, voice]);
  });

  it.each(drawn('carriers', Object.keys(carriers)))('gives the voice its spectrum and loudness, by %s', (name) => {
    const { values, sound } = carriers[name]!;
    /**
     * Distance of the bands from 150 Hz to 8 kHz from the voice, in dB, at equal loudness: the largest, the mean, and the
     * largest of the bands that lie under the slopes of one 10 dB stronger.
     */
    const apart = (even: number) => {
      const { left, right } = spoken({ even, ...values }, voice, sound);
      const louder = loudness([left, right]) - loudness([voice, voice]);
      const off = bandsOf([left, right])
        .map(({ hz, level }, n) => ({
          hz,
          off: Math.abs(level - wanted[n]!.level - louder),
          beside: Math.max(...[n - 1, n + 1].map((other) => wanted[other]?.level ?? -Infinity)) - wanted[n]!.level,
        }))
        .filter(({ hz }) => hz > 150 && hz < 8000);
      const most = (bands: typeof off) => Math.max(0, ...bands.map((one) => one.off));
      return {
        louder,
        most: most(off.filter(({ beside }) => beside < 10)),
        mostBeside: most(off.filter(({ beside }) => beside >= 10)),
        mean: off.reduce((sum, one) => sum + one.off, 0) / off.length,
      };
    };
    const evened = apart(100);
    expect(Math.abs(evened.louder)).toBeLessThan(2);
    expect(evened.mean).toBeLessThan(1.5);
    expect(evened.most).toBeLessThan(4);
    expect(evened.mostBeside).toBeLessThan(5.5);
    expect(apart(0).most).toBeGreaterThan(1.5 * evened.most);
  });

  it('rests in pauses of the voice, and starts without a burst', async () => {
    const voice = await shipped('announcer.flac', RATE, 3);
    const sound = new Float32Array(9 * RATE);
    sound.set(voice, 0);
    sound.set(voice, 6 * RATE);
    const { left } = spoken({}, sound);
    const peak = (from: number, to: number) => largest(left.subarray(from * RATE, to * RATE));
    expect(peak(4, 6)).toBeLessThan(0.02);
    expect(peak(6, 6.5)).toBeLessThan(2 * peak(1, 3));
    expect(peak(0, 0.5)).toBeLessThan(2 * peak(1, 3));
  });
});
