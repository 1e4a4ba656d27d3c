import { SeededRandom } from '../math/random';
import { runsWasm } from '../wasm/kernels';
import { SMOOTHED_CURVES, type SmoothedCurveName } from './antialiasedCurve';
import { DriveStage } from './driveStage';
import { DriveTwin } from './driveTwin';

const NAMES = Object.keys(SMOOTHED_CURVES) as SmoothedCurveName[];
const ALL = new Float64Array(128).fill(1);

describe('a drive in WebAssembly', () => {
  it('runs here', () => expect(runsWasm()).toBe(true));

  it('gives the bits of its twin, for all curves and pairs of them, gains that move, and any blocks', () => {
    const random = new SeededRandom(41);
    // Offsets are taken out beside it: an uneven curve is compared where it stands second of a pair in the twin alone.
    const even = NAMES.filter((name) => name !== 'asymmetric');
    const choices = [...even.map((name) => [name, null] as const), ...even.map((name) => [name, 'tape'] as const)];
    for (const [first, second] of choices) {
      const stage = new DriveStage(48000, 128);
      const twin = new DriveTwin();
      stage.setCurves(first, second);
      stage.reset();
      twin.setCurves(first, second);
      for (let block = 0; block < 60; block++) {
        const frames = 1 + Math.floor(random.uniform() * 128);
        const loud = random.uniform() < 0.2 ? 0 : random.uniform() * 2;
        const sound = Float64Array.from({ length: 128 }, () => loud * random.bipolar());
        const gains = Float64Array.from({ length: 128 }, (_, n) => 1 + 20 * random.uniform() * (n / 128));
        const others = Float64Array.from({ length: 128 }, () => 1 + 6 * random.uniform());
        const expected = sound.slice();
        twin.process(expected, frames, gains, others);
        stage.process(sound, frames, gains, others, ALL);
        const off = sound.subarray(0, frames).findIndex((x, n) => x !== expected[n]);
        expect([first, second, block, off]).toEqual([first, second, block, -1]);
      }
    }
  });

  it('keeps two drives apart that work by turns, and goes on when a curve is exchanged', () => {
    const random = new SeededRandom(5);
    const stages = [new DriveStage(48000, 128), new DriveStage(48000, 128)];
    const twins = [new DriveTwin(), new DriveTwin()];
    const gains = new Float64Array(128).fill(7);
    [0, 1].forEach((n) => {
      stages[n]!.setCurves(NAMES[n]!);
      stages[n]!.reset();
      twins[n]!.setCurves(NAMES[n]!);
    });
    for (let block = 0; block < 40; block++) {
      const n = block % 2;
      if (block === 20) for (const one of [stages[0]!, twins[0]!]) one.setCurves('fold');
      const sound = Float64Array.from({ length: 128 }, () => random.bipolar());
      const expected = sound.slice();
      twins[n]!.process(expected, 64, gains, gains);
      stages[n]!.process(sound, 64, gains, gains, ALL);
      expect(sound.subarray(0, 64)).toEqual(expected.subarray(0, 64));
    }
  });
});
