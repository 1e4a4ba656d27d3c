import { amplitudeAt, db } from '../../../test/support/render';
import { Arena } from '../wasm/arena';
import { KWeighting, kPowerAt } from './kWeighting';

const RATE = 192000;
const BLOCK = 128;

describe('K-weighting', () => {
  it.each([40, 100, 500, 997, 2000, 5000, 12000])('at %d Hz has the power that its prototypes have', (hz) => {
    const memory = new Arena();
    const [left, right] = [memory.doubles(BLOCK), memory.doubles(BLOCK)];
    const weighting = new KWeighting(memory, RATE);
    const out = new Float32Array(RATE);
    for (let start = 0; start < RATE; start += BLOCK) {
      for (let i = 0; i < BLOCK; i++) left[i] = right[i] = Math.sin((2 * Math.PI * hz * (start + i)) / RATE);
      weighting.process(left, right, BLOCK);
      out.set(left.subarray(0, BLOCK), start);
    }
    memory.free();
    expect(db(amplitudeAt(out.subarray(RATE / 2), hz, RATE))).toBeCloseTo(10 * Math.log10(kPowerAt(hz)), 1);
  });
});
