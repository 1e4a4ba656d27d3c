import { TIMING } from '../../../test/support/render';
import { exaggerated } from './exaggerate';
import { EFFECTS, effectById } from './registry';
import { validateValues } from './resolve';
import { withNamedItemsOn } from './spec';

const more = (effect: string, values: Record<string, number | string | boolean>) =>
  exaggerated(effectById(effect), values, TIMING);

describe('exaggerate', () => {
  it('turns up what says how much there is, within its range, and nothing else', () => {
    expect(more('flanger', { depth: 20, feedback: -10, rate: 3 })).toEqual({ depth: 50, feedback: -34.6 });
    expect(more('flanger', { depth: 80, feedback: 60 })).toEqual({ depth: 100, feedback: 99 });
    // A value of zero is raised far enough to be heard at all.
    expect(more('autopan', { depth: 0 })).toEqual({ depth: 35 });
  });

  it('reaches every line and band', () => {
    const lines = more('delay', { 'lines.3.feedback': 20 });
    expect(lines['lines.3.feedback']).toBeGreaterThan(40);
    expect(Object.keys(lines).filter((id) => id.endsWith('.feedback'))).toHaveLength(8);
    expect(more('eq', { 'bands.2.gain': -3 })['bands.2.gain']).toBeLessThan(-5);
  });

  it('gives values that every effect takes', () => {
    for (const spec of EFFECTS) {
      const values = exaggerated(spec, {}, TIMING);
      expect(validateValues(spec, values)).toEqual(values);
    }
  });
});

describe('items that are named', () => {
  it('are switched on, unless they say themselves whether they are', () => {
    const spec = effectById('delay');
    expect(withNamedItemsOn(spec, { 'lines.2.timeLeft': 100, 'lines.3.on': false, 'lines.3.feedback': 5 })).toEqual({
      'lines.2.on': true,
      'lines.2.timeLeft': 100,
      'lines.3.on': false,
      'lines.3.feedback': 5,
    });
    expect(withNamedItemsOn(spec, { mix: 20 })).toEqual({ mix: 20 });
  });
});
