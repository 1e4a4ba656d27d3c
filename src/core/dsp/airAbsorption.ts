import { exp, pow } from '../math/elementary';

/** Metres a second, at 20 degrees. */
export const SOUND_SPEED = 343;

const REFERENCE_KELVIN = 293.15;
const TRIPLE_POINT_KELVIN = 273.16;

/**
 * Loss of sound in air by distance (ISO 9613-1:1993), at normal pressure.
 * @param hz 50 Hz to 20 kHz
 * @param celsius -20 to 50
 * @param humidity relative, in per cent, 10 to 100
 * @returns dB a metre
 */
export function airLossDb(hz: number, celsius = 20, humidity = 50): number {
  const kelvin = celsius + 273.15;
  const ratio = kelvin / REFERENCE_KELVIN;
  const saturation = pow(10, 4.6151 - 6.8346 * pow(TRIPLE_POINT_KELVIN / kelvin, 1.261));
  const water = humidity * saturation;
  const oxygenHz = 24 + (40400 * water * (0.02 + water)) / (0.391 + water);
  const nitrogenHz = (9 + 280 * water * exp(-4.17 * (pow(ratio, -1 / 3) - 1))) / Math.sqrt(ratio);
  const oxygen = (0.01275 * exp(-2239.1 / kelvin)) / (oxygenHz + (hz * hz) / oxygenHz);
  const nitrogen = (0.1068 * exp(-3352 / kelvin)) / (nitrogenHz + (hz * hz) / nitrogenHz);
  return 8.686 * hz * hz * (1.84e-11 * Math.sqrt(ratio) + pow(ratio, -2.5) * (oxygen + nitrogen));
}
