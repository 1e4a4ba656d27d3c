import { itemParameterIndices, parameterIndices } from './parameterIndices';
import { effectById } from './registry';

describe('places of parameters', () => {
  it('are those of the spec, behind its lists', () => {
    const spec = effectById('eq');
    const places = parameterIndices(spec, ['output']);
    expect(spec.parameters[places.output]!.id).toBe('output');
    const item = itemParameterIndices(spec.lists[0]!, ['channel', 'on', 'type', 'frequency', 'gain', 'q', 'slope']);
    expect(spec.parameters[item.gain]!.id).toBe('bands.1.gain');
    expect(item.on).toBe(0);
  });

  it('are refused where kernel and spec disagree', () => {
    const spec = effectById('autopan');
    expect(() => parameterIndices(spec, ['rate', 'shape', 'depth', 'phase', 'smooth', 'speed'])).toThrow(
      'no parameter speed',
    );
    expect(() => parameterIndices(spec, ['rate', 'shape', 'depth', 'phase'])).toThrow('does not know smooth');
    expect(() => itemParameterIndices(effectById('eq').lists[0]!, ['on'])).toThrow('does not know type');
  });
});
