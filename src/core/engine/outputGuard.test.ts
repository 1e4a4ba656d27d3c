import { largest, RATES, sine } from '../../../test/support/render';
import { OutputGuard } from './outputGuard';

function through(guard: OutputGuard, sound: Float32Array): Float32Array {
  const out = sound.slice();
  const right = sound.slice();
  for (let at = 0; at < out.length; at += 128) {
    const frames = Math.min(128, out.length - at);
    guard.process(out.subarray(at, at + frames), right.subarray(at, at + frames), frames);
  }
  return out;
}

describe.each(RATES)('the guard of the output at %d Hz', (rate) => {
  it('leaves what stays under +6 dBFS as it is, bit for bit', () => {
    const sound = sine(440, rate, rate / 2, 1.99);
    expect(through(new OutputGuard(rate), sound)).toEqual(sound);
  });

  it('stops a runaway within 20 ms, and keeps it stopped until somebody resumes', () => {
    const guard = new OutputGuard(rate);
    // A loop that gains 1 dB a pass of 10 ms.
    const away = Float32Array.from(
      { length: rate },
      (_, n) => 0.5 * 1.122 ** (n / (0.01 * rate)) * Math.sin((2 * Math.PI * 300 * n) / rate),
    );
    const out = through(guard, away);
    const first = away.findIndex((x) => Math.abs(x) > 1.9953);
    expect(largest(out.slice(first + 0.02 * rate))).toBe(0);
    expect([guard.tripped, largest(out) < 2.4]).toEqual([true, true]);
    expect(largest(through(guard, sine(300, rate, rate / 10, 0.5)))).toBe(0);
    guard.resume();
    const back = through(guard, sine(300, rate, rate / 10, 0.5));
    expect([guard.tripped, largest(back) > 0.49, Math.abs(back[10]!) < 0.1]).toEqual([false, true, true]);
  });

  it('lets everything through when it is off, also after it had stopped', () => {
    const guard = new OutputGuard(rate);
    const loud = sine(300, rate, rate / 10, 3);
    through(guard, loud);
    guard.on = false;
    through(guard, loud);
    expect(through(guard, loud)).toEqual(loud);
  });
});
