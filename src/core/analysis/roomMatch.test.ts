import { drawn } from '../../../test/support/sweep';
import { shippedImpulse } from '../effects/convolution/prepare';
import { resolveSetting } from '../effects/settings';
import { effectById } from '../effects/registry';
import { findSetting } from '../effects/spec';
import { validateValues } from '../effects/resolve';
import { matchRoom, type RoomMatch } from './roomMatch';

const RATE = 48000;

function matched(paths: readonly Float32Array[]): RoomMatch {
  const steps = matchRoom(paths, RATE);
  const seen: number[] = [];
  for (;;) {
    const step = steps.next();
    if (step.done) {
      expect(seen.length).toBeGreaterThan(3);
      return step.value;
    }
    seen.push(step.value);
  }
}

describe('a room that is matched to an impulse', () => {
  it.each(drawn('matched rooms', ['rehearsal', 'theatre', 'plate-dark']))(
    'rings as %s does, within a tenth in every octave it claims',
    (id) => {
      const match = matched(shippedImpulse(id, RATE).slice(0, 2));
      const claimed = match.octaves.filter(({ matches }) => matches);
      expect(claimed.length).toBeGreaterThanOrEqual(8);
      for (const { wanted, got } of claimed) expect(Math.abs(got! / wanted! - 1)).toBeLessThanOrEqual(0.1);
      expect(match.notes.length).toBe(match.octaves.length - claimed.length);
      expect(Math.abs(match.got.c80 - match.wanted.c80)).toBeLessThan(3);
      // The values it gives can be set as they are.
      const spec = effectById('reverb');
      expect(() => validateValues(spec, { ...match.values })).not.toThrow();
      expect(resolveSetting(findSetting(spec, 'decayOctaves')!, match.values.decayOctaves).kind).toBe('octaves');
    },
  );

  it('says where it cannot, and refuses what has no decay', () => {
    const pipe = matched(shippedImpulse('pipe-organ', RATE).slice(0, 2));
    expect(pipe.notes.join(' ')).toContain('At 63 Hz the reverb cannot be measured');
    expect(pipe.notes.join(' ')).toMatch(/At 2 kHz the reverb rings for/);
    expect(() => matched([Float32Array.of(1, 0, 0, 0)])).toThrow('Too little decay');
  });
});
