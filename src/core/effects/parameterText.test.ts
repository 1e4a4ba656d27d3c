import { parseValue } from './parameterText';
import { number } from './spec';

const thickness = number({
  id: 'thickness',
  name: 'Thickness',
  unit: 'm',
  min: 0.0002,
  max: 2,
  default: 0.001,
  scale: 'log',
  help: '',
});

describe('a length', () => {
  it('is in metres without a unit, and says both units when it is refused', () => {
    expect(parseValue(thickness, '0.05')).toBe(0.05);
    expect(parseValue(thickness, '5 cm')).toBe(0.05);
    expect(() => parseValue(thickness, '3.5')).toThrow('thickness takes 0.0002 to 2 m (0.02 cm to 2 m), not 3.5 m.');
    expect(() => parseValue(thickness, '0.0001')).toThrow('not 0.0001 m (0.01 cm).');
  });

  it('is in centimetres where it was shown so', () => {
    expect(parseValue(thickness, '5', undefined, 0.5)).toBe(0.05);
    expect(parseValue(thickness, '0.5 m', undefined, 0.5)).toBe(0.5);
    expect(parseValue(thickness, '1.5', undefined, 1.2)).toBe(1.5);
  });
});
