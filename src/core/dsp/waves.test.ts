import { SeededRandom } from '../math/random';
import { Arena, type Doubles } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { FilterPair } from './filterPair';
import { WAVE } from './waveState';
import { addModulatedTwin, addNoiseTwin, addWaveTwin } from '../wasm/twins/waves';
import { WaveTables } from './waveTables';

const memory = new Arena();
afterAll(() => memory.free());

describe('oscillators in WebAssembly', () => {
  const { kernels } = wasm();
  const random = new SeededRandom(9);
  const tables = new WaveTables();
  const stateOf = (pulse: boolean) => {
    const state = memory.doubles(WAVE.length);
    const figures = [0.4, 0, 0.01, 1e-5, pulse ? 0.2 : -1, pulse ? 1e-4 : 0, 0.5, 1e-3, 0.25, -1e-3];
    state.set(figures.map((x) => x * (0.5 + random.uniform())));
    return state;
  };
  const block = () => {
    const made = memory.doubles(128);
    for (let n = 0; n < 128; n++) made[n] = random.bipolar();
    return made;
  };

  it.each(['saw', 'pulse', 'modulated', 'noise'])('%s gives the bits of the same in TypeScript', (kind) => {
    for (let turn = 0; turn < 20; turn++) {
      const state = stateOf(kind === 'pulse' || kind === 'modulated');
      const [left, right] = [block(), block()];
      const twin = { state: state.slice(), left: left.slice(), right: right.slice() };
      const offset = turn % 7;
      const frames = 1 + Math.floor(random.uniform() * 128);
      const places = [left.byteOffset, right.byteOffset] as const;
      if (kind === 'noise') {
        const counter = random.nextUint32();
        kernels.addNoise(state.byteOffset, counter, offset, frames, ...places);
        addNoiseTwin(twin.state, counter, offset, frames, twin.left, twin.right);
      } else if (kind === 'modulated') {
        kernels.addModulated(state.byteOffset, tables.sine.byteOffset, 1.7, offset, frames, ...places);
        addModulatedTwin(twin.state, tables.sine, 1.7, offset, frames, twin.left, twin.right);
      } else {
        tables.choose(0.004 * (1 + turn));
        const { near, far } = tables;
        kernels.addWave(state.byteOffset, near.byteOffset, far.byteOffset, tables.blend, offset, frames, ...places);
        addWaveTwin(twin.state, near, far, tables.blend, offset, frames, twin.left, twin.right);
      }
      expect([...left]).toEqual([...twin.left]);
      expect([...right]).toEqual([...twin.right]);
      expect([...state]).toEqual([...twin.state]);
    }
  });

  it('what two sides hold is spent on two others at a moving gain', () => {
    const [left, right, outLeft, outRight] = [block(), block(), block(), block()];
    const wanted = outLeft.map((x, n) => (n < 50 ? x + (0.5 + (n + 3) * 0.01) * left[n]! : x));
    const rest = right.slice(50);
    const places = [outLeft, outRight, left, right].map(({ byteOffset }) => byteOffset) as [
      number,
      number,
      number,
      number,
    ];
    kernels.spendSides(...places, 0.5, 0.01, 3, 50);
    expect([...outLeft]).toEqual([...wanted]);
    expect(Math.max(...left.subarray(0, 50).map(Math.abs))).toBe(0);
    expect([...right.subarray(50)]).toEqual([...rest]);
  });

  it('a filter that spends what it makes is the same as one after the other', () => {
    for (const glides of [0, 64]) {
      const pair = () => {
        const filter = new FilterPair(memory, 48000, true);
        for (const side of [0, 1] as const) filter.shape(side, 800, 1.1, 0, 0, 1, glides);
        return filter;
      };
      const [one, other] = [pair(), pair()];
      const [left, right, outLeft, outRight] = [block(), block(), block(), block()];
      const copies = [left, right, outLeft, outRight].map((from) => {
        const to = memory.doubles(128);
        to.set(from);
        return to;
      }) as [Doubles, Doubles, Doubles, Doubles];
      one.spend(left, right, outLeft.byteOffset, outRight.byteOffset, 0.5, 0.003, 5, 61);
      other.process(copies[0], copies[1], 61);
      const [l, r, toLeft, toRight] = copies.map(({ byteOffset }) => byteOffset) as [number, number, number, number];
      kernels.spendSides(toLeft, toRight, l, r, 0.5, 0.003, 5, 61);
      [left, right, outLeft, outRight].forEach((made, n) => expect([...made]).toEqual([...copies[n]!]));
    }
  });

  it('chooses tables with no harmonic above the band, ever fewer without a step', () => {
    let before = tables.table(0);
    for (let increment = 1e-5; increment < 0.6; increment *= 1.01) {
      tables.choose(increment);
      const { near, far } = tables;
      const table = near.map((x, n) => x + tables.blend * (far[n]! - x)) as typeof before;
      // A pitch change of one percent changes the wave little.
      const change = Math.hypot(...table.map((x, n) => x - before[n]!)) / Math.hypot(...tables.table(0));
      expect(change).toBeLessThan(increment < 0.4 ? 0.12 : 1);
      if (increment > 0.5) expect(Math.max(...table)).toBe(0);
      before = table;
    }
  });
});
