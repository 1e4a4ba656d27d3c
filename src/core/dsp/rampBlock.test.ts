import { SeededRandom } from '../math/random';
import { Arena } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { Ramp } from './ramp';
import { RampBlock } from './rampBlock';

describe('a ramp whose values the WebAssembly kernels read', () => {
  const memory = new Arena();
  afterAll(() => memory.free());

  it('lays down what a ramp would, however it is sent about and whatever the blocks', () => {
    const random = new SeededRandom(12);
    const [laid, plain] = [new RampBlock(memory, 0.3), new Ramp(0.3)];
    const wanted = new Float64Array(128);
    for (let turn = 0; turn < 500; turn++) {
      if (random.uniform() < 0.2) {
        const [target, frames] = [random.bipolar(), Math.floor(400 * random.uniform())];
        for (const ramp of [laid, plain]) ramp.moveTo(target, frames);
      }
      const frames = 1 + Math.floor(128 * random.uniform());
      const there = new Float64Array(wasm().buffer, laid.take(frames), frames);
      plain.fill(wanted, frames);
      expect([...there]).toEqual([...wanted.subarray(0, frames)]);
      expect(laid.value).toBe(plain.value);
    }
  });

  it('has all of a block at its value while it stands', () => {
    const ramp = new RampBlock(memory, 0);
    ramp.moveTo(2, 50);
    ramp.take(60);
    const there = new Float64Array(wasm().buffer, ramp.take(3), 128);
    expect([...there]).toEqual(new Array(128).fill(2));
  });
});
