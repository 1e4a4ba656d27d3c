import { lookUp } from '../lookUp';

export type Unit =
  | 'ms'
  | 's'
  | ':1'
  | 'Hz'
  | 'dB'
  | 'dB/octave'
  | '%'
  | 'octaves'
  | 'semitones'
  | 'cents'
  | 'beats'
  | 'm'
  | 'degrees'
  | 'frames'
  | '';

/** Factors from a written suffix to the parameter's unit. */
const SUFFIXES: Record<string, Record<string, number>> = {
  ms: { ms: 1, s: 1000, us: 0.001 },
  s: { s: 1, ms: 0.001 },
  Hz: { hz: 1, k: 1000, khz: 1000 },
  dB: { db: 1 },
  'dB/octave': { 'db/octave': 1, 'db/oct': 1, db: 1 },
  '%': { '%': 1 },
  m: { m: 1, cm: 0.01 },
  semitones: { st: 1, semitones: 1, semitone: 1 },
  cents: { ct: 1, cents: 1, cent: 1 },
  beats: { beats: 1, beat: 1 },
  octaves: { oct: 1, octaves: 1, octave: 1 },
  degrees: { deg: 1, degrees: 1, degree: 1, '°': 1 },
  frames: { frames: 1, frame: 1 },
  ':1': { ':1': 1, ': 1': 1 },
  '': {},
};

const FIGURE = /^([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)\s*([a-z%°/]*|: ?1)$/;

/** Reads a figure with or without its unit, `2k`, `250 ms`; undefined when it is none. Without one it is in `unit`. */
export function readFigure(unit: Unit, text: string): number | undefined {
  const figure = FIGURE.exec(text.trim().toLowerCase().replace('−', '-'));
  const factor = figure?.[2] === '' ? 1 : lookUp(SUFFIXES[unit] ?? {}, figure?.[2] ?? '');
  return figure && factor !== undefined ? Number((Number(figure[1]) * factor).toPrecision(12)) : undefined;
}

export const withFigures = (value: number, figures: number): string => {
  const magnitude = Math.abs(value);
  const whole = magnitude >= 1000 ? 4 : magnitude >= 100 ? 3 : magnitude >= 10 ? 2 : 1;
  return String(Number(value.toFixed(Math.max(0, figures - whole))));
};

/** A figure with its unit, as it is shown. */
export function formatUnit(unit: Unit, value: number): string {
  switch (unit) {
    case 'dB':
      return `${value.toFixed(1).replace(/^-0\.0$/, '0.0')} dB`;
    case 'Hz':
      return value >= 1000 ? `${withFigures(value / 1000, 3)} kHz` : `${withFigures(value, 3)} Hz`;
    case 'ms':
      return value >= 1000 ? `${withFigures(value / 1000, 4)} s` : `${withFigures(value, 3)} ms`;
    case '%':
      return `${withFigures(value, 3)} %`;
    case '':
      return withFigures(value, 3);
    case ':1':
      return `${withFigures(value, 3)}:1`;
    case 'm':
      return value < 1 ? `${withFigures(value * 100, 3)} cm` : `${withFigures(value, 3)} m`;
    case 'semitones':
    case 'cents':
    case 'beats':
    case 'octaves':
    case 'degrees':
    case 'frames': {
      const figure = withFigures(value, 3);
      return `${figure} ${figure === '1' ? unit.slice(0, -1) : unit}`;
    }
    default:
      return `${withFigures(value, 3)} ${unit}`;
  }
}
