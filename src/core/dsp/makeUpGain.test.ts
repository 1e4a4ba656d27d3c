import { db } from '../../../test/support/render';
import { MakeUpGain } from './makeUpGain';

const RATE = 48000;
const TICK = 64;

/** The gain of the next frame. */
function gainOf(gain: MakeUpGain): number {
  const frame = Float64Array.of(1);
  gain.process(frame, 1, 1);
  return frame[0]!;
}

/** Feeds levels of source and processed signal, in dBFS, for some seconds; returns the gain at the end in dB. */
function feed(gain: MakeUpGain, sourceDb: number, processedDb: number, seconds: number): number {
  const block = new Float64Array(TICK);
  for (let tick = 0; tick < (seconds * RATE) / TICK; tick++) {
    gain.tick();
    gain.process(block.fill(10 ** (processedDb / 20)), TICK, TICK * 10 ** (sourceDb / 10));
  }
  return db(gainOf(gain));
}

describe('a make-up gain', () => {
  const made = () => new MakeUpGain(RATE, TICK, 18);

  it('brings back what was lost or won, within its range', () => {
    expect(feed(made(), -20, -29, 3)).toBeCloseTo(9, 1);
    expect(feed(made(), -20, -8, 3)).toBeCloseTo(-12, 1);
    expect(feed(made(), -20, -60, 3)).toBeCloseTo(18, 1);
    expect(feed(made(), -20, 10, 3)).toBeCloseTo(-18, 1);
    expect(feed(made(), -20, -Infinity, 3)).toBeCloseTo(18, 1);
  });

  it('is slow: a change of 12 dB takes it longer than a third of a second', () => {
    const gain = made();
    feed(gain, -20, -20, 2);
    expect(feed(gain, -20, -32, 0.3)).toBeLessThan(6);
  });

  it('rests in a pause, whatever is left of the processed signal', () => {
    const gain = made();
    const before = feed(gain, -20, -26, 4);
    expect(before).toBeCloseTo(6, 1);
    expect(Math.abs(feed(gain, -Infinity, -90, 20) - before)).toBeLessThan(1);
  });

  it('begins anew', () => {
    const gain = made();
    feed(gain, -20, -29, 3);
    gain.reset();
    expect(gainOf(gain)).toBe(1);
  });
});
