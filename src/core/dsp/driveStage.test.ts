import { SeededRandom } from '../math/random';
import { Arena } from '../wasm/arena';
import { CURVE_NAMES } from './curves';
import { DriveStage } from './driveStage';
import { DriveTwin } from '../wasm/twins/drive';

const memory = new Arena();
afterAll(() => memory.free());

function blocks() {
  return {
    sound: memory.doubles(128),
    gains: memory.doubles(128),
    others: memory.doubles(128),
    amounts: memory.doubles(128),
  };
}

describe('a drive in WebAssembly', () => {
  it('gives the bits of its twin, for all curves and pairs of them, gains that move, and any blocks', () => {
    const random = new SeededRandom(41);
    const choices = [
      ...CURVE_NAMES.map((name) => [name, null] as const),
      ...CURVE_NAMES.map((name) => [name, 'tape'] as const),
      [null, 'tape'] as const,
      [null, null] as const,
    ];
    const { sound, gains, others, amounts } = blocks();
    for (const [first, second, times] of choices.flatMap((pair) => [[...pair, 4] as const, [...pair, 8] as const])) {
      const stage = new DriveStage(memory, 48000);
      const twin = new DriveTwin(48000);
      stage.setCurves(first, second, times);
      twin.setCurves(first, second, times);
      for (let block = 0; block < 24; block++) {
        const frames = 1 + Math.floor(random.uniform() * 128);
        const loud = random.uniform() < 0.2 ? 0 : 10 ** (random.uniform() * 9 - 8);
        for (let n = 0; n < 128; n++) {
          sound[n] = loud * random.bipolar();
          gains[n] = 1 + 60 * random.uniform() * (n / 128);
          others[n] = 1 + 6 * random.uniform();
          amounts[n] = block % 3 === 0 ? random.uniform() : 1;
        }
        const expected = sound.slice();
        twin.process(expected, frames, gains, others, amounts);
        stage.process(sound, frames, gains, others, amounts);
        const off = sound.subarray(0, frames).findIndex((x, n) => x !== expected[n]);
        expect([first, second, times, block, off]).toEqual([first, second, times, block, -1]);
      }
    }
  });

  it('keeps two drives apart that work by turns, and goes on when a curve is exchanged', () => {
    const random = new SeededRandom(5);
    const stages = [new DriveStage(memory, 48000), new DriveStage(memory, 48000)];
    const twins = [new DriveTwin(48000), new DriveTwin(48000)];
    const { sound, gains, amounts } = blocks();
    gains.fill(7);
    amounts.fill(1);
    [0, 1].forEach((n) => {
      stages[n]!.setCurves(CURVE_NAMES[n]!);
      twins[n]!.setCurves(CURVE_NAMES[n]!);
    });
    for (let block = 0; block < 40; block++) {
      const n = block % 2;
      if (block === 20) for (const one of [stages[0]!, twins[0]!]) one.setCurves('fold');
      for (let i = 0; i < 128; i++) sound[i] = random.bipolar();
      const expected = sound.slice();
      twins[n]!.process(expected, 64, gains, gains, amounts);
      stages[n]!.process(sound, 64, gains, gains, amounts);
      expect(sound.subarray(0, 64).findIndex((x, i) => x !== expected[i])).toBe(-1);
    }
  });
});
