import { number, widthParameter, type Parameter } from './spec';

const band = (what: string, id: string, name: string, where: string, hz: number, lowest: number, highest: number) => [
  number({
    id,
    name,
    unit: 'dB',
    min: -18,
    max: 18,
    default: 0,
    scale: 'linear',
    help: `How much louder or softer the ${what} is ${where} this frequency.`,
  }),
  number({
    id: `${id}Frequency`,
    name: `${name} at`,
    needs: { id, not: 0 },
    unit: 'Hz',
    min: lowest,
    max: highest,
    default: hz,
    scale: 'log',
    help: `Where the ${name.toLowerCase()} of the ${what} begin.`,
  }),
];

/** Tone and width of a wet sound. @param what that is, as help calls it: `room` */
export const wetToneParameters = (what: string): Parameter[] => [
  ...band(what, 'wetLow', 'Lows', 'below', 250, 40, 1000),
  ...band(what, 'wetMid', 'Mids', 'about', 1200, 200, 6000),
  ...band(what, 'wetHigh', 'Highs', 'above', 5000, 1500, 16000),
  widthParameter(`How far the ${what} spreads to both sides; 0 % is mono.`),
];
