import { sine } from '../../../test/support/render';
import { Noise } from '../dsp/noise';
import { StateVariableFilter } from '../dsp/stateVariableFilter';
import { portraitOf } from './portrait';

const RATE = 48000;

/** Pink noise that is louder about some frequencies. */
function coloured(peaks: readonly (readonly [hz: number, gain: number])[]): Float32Array {
  const noise = new Noise(6);
  const plain = Float64Array.from({ length: 6 * RATE }, () => 0.1 * noise.pink());
  const out = plain.slice();
  for (const [hz, gain] of peaks) {
    const band = plain.slice();
    const filter = new StateVariableFilter(RATE);
    filter.configure('bandPass', hz, 3);
    filter.process(band, band.length);
    band.forEach((x, n) => (out[n] = out[n]! + gain * x));
  }
  return Float32Array.from(out);
}

describe('a portrait of a sound', () => {
  it('is even for pink noise, within 1 dB from 50 Hz to 10 kHz, and finds no region there', () => {
    const pink = coloured([]);
    const { hz, levelsDb, regions } = portraitOf(pink, pink, RATE);
    const inside = levelsDb.filter((_, n) => hz[n]! > 100 && hz[n]! < 10000);
    expect(Math.max(...inside) - Math.min(...inside)).toBeLessThan(2);
    expect(regions).toEqual([]);
  });

  it('says where a sound lives, the most prominent first', () => {
    const sound = coloured([
      [500, 4],
      [3150, 2],
    ]);
    const { regions } = portraitOf(sound, sound, RATE);
    expect(regions.map(({ centreHz }) => Math.round(Math.log2(centreHz / 1000) * 3))).toEqual([-3, 5]);
    for (const { fromHz, toHz, centreHz } of regions) expect(fromHz < centreHz && toHz > centreHz).toBe(true);
    expect(regions[0]!.prominenceDb).toBeGreaterThan(regions[1]!.prominenceDb);
  });

  it('tells what is lost in mono, and has nothing to say of silence', () => {
    const tone = sine(1000, RATE, RATE, 0.3);
    const { field } = portraitOf(
      tone,
      tone.map((x) => -x),
      RATE,
    );
    expect(field.monoLossDb).toBe(60);
    const silence = new Float32Array(RATE);
    expect(portraitOf(silence, silence, RATE)).toMatchObject({ regions: [], field: { monoLossDb: null } });
  });
});
