import { exp, log } from '../math/elementary';
import type { NumberParameter } from './spec';

/** The mapping between positions and values of a ruler. */
export type RulerScale = Pick<NumberParameter, 'min' | 'max' | 'scale'>;

/** Curvature of the level scale: the top 20 dB take about half of it. */
const LEVEL_BEND = 2.2;
/** Curvature of the scale that begins at nothing: the lowest eighth takes half of it. */
const FINE_BEND = 1 / 3;

/** Position of a value on its ruler, 0 to 1; values out of range lie at its ends. */
export function positionOf(parameter: RulerScale, value: number): number {
  const { min, max } = parameter;
  const inside = Math.min(max, Math.max(min, value));
  if (parameter.scale === 'log') return log(inside / min) / log(max / min);
  const linear = (inside - min) / (max - min);
  return parameter.scale === 'linear' ? linear : linear <= 0 ? 0 : exp(log(linear) * bendOf(parameter));
}

function bendOf({ scale }: RulerScale): number {
  return scale === 'level' ? LEVEL_BEND : FINE_BEND;
}

/** The value at a place on the ruler, 0 to 1, exactly. */
export function exactValueAt(parameter: RulerScale, position: number): number {
  const { min, max } = parameter;
  if (position <= 0) return min;
  if (position >= 1) return max;
  if (parameter.scale === 'log') return min * exp(position * log(max / min));
  const linear = parameter.scale === 'linear' ? position : exp(log(position) / bendOf(parameter));
  return min + linear * (max - min);
}

/** The value at a place on the ruler, 0 to 1, rounded to what the eye can set. */
export function valueAt(parameter: NumberParameter, position: number): number {
  const exact = exactValueAt(parameter, position);
  if (exact === parameter.min || exact === parameter.max) return exact;
  if (parameter.scale === 'log') return Number(exact.toPrecision(4));
  const span = parameter.max - parameter.min;
  if (parameter.scale === 'fine') return Number(exact.toFixed(span > 20 ? 2 : 3));
  return Number(exact.toFixed(span > 500 ? 0 : span > 20 ? 1 : 3));
}

/** Places for the ruler's ticks, 0 to 1, long ones at round figures. */
export function ticksOf(parameter: NumberParameter): { position: number; long: boolean }[] {
  const { min, max, scale } = parameter;
  const ticks: { position: number; long: boolean }[] = [];
  if (scale === 'log') {
    for (let decade = 1e-3; decade <= max; decade *= 10) {
      for (const step of [1, 2, 3, 5]) {
        const value = decade * step;
        if (value >= min * 0.999 && value <= max * 1.001)
          ticks.push({ position: positionOf(parameter, value), long: step === 1 });
      }
    }
    return ticks;
  }
  const step = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100].find((one) => (max - min) / one <= 24) ?? (max - min) / 20;
  for (let i = Math.ceil(min / step); i <= Math.floor(max / step + 1e-9); i++) {
    ticks.push({ position: positionOf(parameter, i * step), long: i % 5 === 0 });
  }
  return ticks;
}
