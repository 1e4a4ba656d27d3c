import { largest } from '../../../test/support/render';
import { Noise } from './noise';
import { SeededRandom } from '../math/random';
import { Arena, heapOfThread } from '../wasm/arena';
import { LatencyCompensator } from './latencyCompensator';

/** Plays a sound through, its right side upside down, in blocks of random length; `before` is told where each begins. */
function held(
  delay: LatencyCompensator,
  sound: Float32Array,
  before: (at: number) => void = () => {},
  inPlace = false,
) {
  const memory = new Arena();
  const random = new SeededRandom(2);
  const [left, right, otherLeft, otherRight] = Array.from({ length: 4 }, () => memory.floats(128));
  const [outLeft, outRight] = inPlace ? [left!, right!] : [otherLeft!, otherRight!];
  const out = [new Float32Array(sound.length), new Float32Array(sound.length)];
  for (let at = 0; at < sound.length;) {
    before(at);
    const frames = Math.min(1 + Math.floor(128 * random.uniform()), sound.length - at);
    const part = sound.subarray(at, at + frames);
    const sounding = part.some((x) => x !== 0);
    // Samples of a block that is said to be silent do not count.
    left!.fill(9).set(sounding ? part : []);
    right!.fill(9).set(sounding ? part.map((x) => -x) : []);
    delay.process(left!, right!, sounding, outLeft!, outRight!, frames);
    out[0]!.set(outLeft!.subarray(0, frames), at);
    out[1]!.set(outRight!.subarray(0, frames), at);
    at += frames;
  }
  memory.free();
  return out;
}

/** Noise with silences of some blocks. */
function broken(frames: number): Float32Array {
  const noise = new Noise(3);
  return Float32Array.from({ length: frames }, (_, n) => (n % 3000 < 1800 ? noise.white() : 0));
}

describe('what holds a path back', () => {
  const memory = new Arena();
  afterAll(() => memory.free());

  it.each([0, 1, 7, 127, 128, 129, 1000, 4096])('gives out what went in %i frames ago, to the bit', (frames) => {
    const sound = broken(12000);
    for (const inPlace of [false, true]) {
      const delay = new LatencyCompensator(memory);
      delay.setDelay(frames, true);
      const [left, right] = held(delay, sound, undefined, inPlace);
      const late = sound.map((_, n) => (n < frames ? 0 : sound[n - frames]!));
      expect(largest(left!.map((x, n) => x - late[n]!))).toBe(0);
      expect(largest(right!.map((x, n) => x + late[n]!))).toBe(0);
    }
  });

  it('crossfades from one delay to a longer one with what it remembers, and back', () => {
    const delay = new LatencyCompensator(memory);
    delay.setDelay(100, true);
    const sound = new Float32Array(12000).fill(0.5);
    const steps = new Map([
      [4000, 200],
      [8000, 90],
    ]);
    const [left] = held(delay, sound, (at) => {
      for (const [from, frames] of steps) if (at >= from && steps.delete(from)) delay.setDelay(frames, false);
    });
    // A steady sound shows every frame that is missing.
    expect(largest(left!.slice(100).map((x) => x - 0.5))).toBeLessThan(1e-7);
    expect(delay.delayFrames).toBe(90);
  });

  it('takes another delay at once while it is silent', () => {
    const delay = new LatencyCompensator(memory);
    delay.setDelay(100, true);
    const sound = new Float32Array(6000).fill(0.5, 4000);
    const [left] = held(delay, sound, (at) => {
      if (at > 2000 && at < 4000) delay.setDelay(3000, false);
    });
    expect([...left!.subarray(3000)]).toEqual(new Array(3000).fill(0));
    const [rest] = held(delay, new Float32Array(2000));
    expect([...rest!]).toEqual([...new Array(1000).fill(0), ...new Array(1000).fill(0.5)]);
  });

  it('knows when nothing is left in it', () => {
    const delay = new LatencyCompensator(memory);
    expect([delay.hasHistory, delay.isSilent]).toEqual([false, true]);
    delay.setDelay(500, true);
    expect([delay.hasHistory, delay.isSilent]).toEqual([true, true]);
    held(delay, new Float32Array(600).fill(1));
    expect(delay.isSilent).toBe(false);
    const [rest] = held(delay, new Float32Array(400));
    expect(delay.isSilent).toBe(false);
    expect([...rest!]).toEqual(new Array(400).fill(1));
    held(delay, new Float32Array(1000));
    expect(delay.isSilent).toBe(true);
  });

  it('gives its memory back', () => {
    const { freeBytes } = heapOfThread();
    const own = new Arena();
    const delay = new LatencyCompensator(own);
    for (const frames of [100, 5000, 300, 70000]) delay.setDelay(frames, false);
    expect(heapOfThread().freeBytes).toBeLessThan(freeBytes - 2 * 4 * 70000);
    expect(heapOfThread().freeBytes).toBeGreaterThan(freeBytes - 2 * 4 * 140000);
    delay.dispose();
    expect(heapOfThread().freeBytes).toBe(freeBytes);
  });
});
