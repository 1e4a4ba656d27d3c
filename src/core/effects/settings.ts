import { OCTAVES_HZ } from '../dsp/octaveBands';
import { KinetikonError } from '../errors';
import { monotoneCurveAt } from '../math/monotoneCurve';
import { quoted } from '../text';
import { readKeys, writeKeys } from './chords';
import { formatUnit, readFigure, type Unit } from './units';
import type { Needs, ParameterValue } from './values';

interface SettingBase {
  /** The contract: command line, presets and sessions use it. */
  readonly id: string;
  /** An id under which it is read as well: its own in earlier versions. */
  readonly formerId?: string;
  readonly name: string;
  /** One plain line. */
  readonly help: string;
  readonly group: string;
  readonly needs?: Needs;
}

/** A factor for each octave from 63 Hz to 16 kHz: nine of them, or points such as `125:1.3,4000:0.7`. */
export interface OctavesSetting extends SettingBase {
  readonly kind: 'octaves';
  /** Smallest and largest factor. */
  readonly min: number;
  readonly max: number;
  readonly default: string;
}

/** Keys that sound, written by name: `D3 F3 A3`, or `Dm7`. */
export interface NotesSetting extends SettingBase {
  readonly kind: 'notes';
  readonly most: number;
  readonly default: string;
}

/** A round through points, written by their places: `0:1 1:0 0:-1`. */
export interface PathSetting extends SettingBase {
  readonly kind: 'path';
  readonly most: number;
  readonly default: string;
}

/** Which of the many courses that chance could take. */
export interface SeedSetting extends SettingBase {
  readonly kind: 'seed';
  readonly default: number;
}

/** A sound that the effect works with: one that ships with it, or one of the session's. */
export interface SoundSetting extends SettingBase {
  readonly kind: 'sound';
  readonly shipped: readonly { readonly id: string; readonly name: string }[];
  readonly longestSeconds: number;
  readonly default: string;
}

/** A setting of an effect that is no number on a ruler and cannot be automated. */
export type Setting = OctavesSetting | PathSetting | NotesSetting | SeedSetting | SoundSetting;

export const HIGHEST_SEED = 9999;
/** Bounds of the points that such a setting is read from. */
const [LOWEST_HZ, HIGHEST_HZ] = [20, 20000];
const MOST_POINTS = 9;
/** Assets are called by their SHA-256 sum. */
const ASSET = /^[0-9a-f]{64}$/;

/** A setting as a kernel takes it. */
export type ResolvedSetting =
  /** By octave, from 63 Hz up. */
  | { readonly kind: 'octaves'; readonly factors: readonly number[] }
  /** Points in their order, -1 to 1. */
  | { readonly kind: 'path'; readonly x: readonly number[]; readonly y: readonly number[] }
  /** Keys from the lowest up. */
  | { readonly kind: 'notes'; readonly keys: readonly number[] }
  | { readonly kind: 'seed'; readonly value: number }
  /** One that ships with the effect, or an asset. */
  | { readonly kind: 'sound'; readonly id: string; readonly shipped: boolean };

export type ResolvedSettings = Readonly<Record<string, ResolvedSetting>>;

function refused(setting: Setting, given: unknown, why?: string): KinetikonError {
  return new KinetikonError(
    'parameter.range',
    `${setting.id} takes ${describeSetting(setting)}, not "${quoted(given)}"${why ? `: ${why}` : ''}.`,
    { kept: 'Nothing was changed.' },
  );
}

/** The values that a setting accepts, in words. */
export function describeSetting(setting: Setting): string {
  switch (setting.kind) {
    case 'octaves':
      return `flat, nine factors from ${setting.min} to ${setting.max} for 63 Hz to 16 kHz, or 1 to ${MOST_POINTS} points from ${formatUnit('Hz', LOWEST_HZ)} to ${formatUnit('Hz', HIGHEST_HZ)} such as 125:1.3,4000:0.7`;
    case 'path':
      return `2 to ${setting.most} points such as ${setting.default}, each figure from -1 to 1`;
    case 'notes':
      return `1 to ${setting.most} notes such as ${setting.default}, or a chord such as Dm7`;
    case 'seed':
      return `a whole number from 0 to ${HIGHEST_SEED}`;
    case 'sound':
      return `a sound of up to ${setting.longestSeconds} s or one of ${setting.shipped.map(({ id }) => id).join(', ')}`;
  }
}

const words = (text: string) => text.split(/[\s,;]+/).filter((word) => word !== '');

/**
 * A setting as its kernel takes it, from what a session holds or a person wrote.
 * @throws KinetikonError parameter.range, naming the setting, what it takes and what was given
 */
export function resolveSetting(setting: Setting, value: unknown): ResolvedSetting {
  switch (setting.kind) {
    case 'octaves':
      return { kind: 'octaves', factors: readOctaves(setting, value) };
    case 'path': {
      if (typeof value !== 'string') throw refused(setting, value);
      const points = words(value).map((word) => {
        const figures = word.split(':').map((part) => readFigure('', part));
        if (figures.length !== 2 || figures.some((one) => one === undefined || Math.abs(one) > 1)) {
          throw refused(setting, value, `${word} is no point`);
        }
        return figures as [number, number];
      });
      if (points.length < 2 || points.length > setting.most) throw refused(setting, value);
      return { kind: 'path', x: points.map(([x]) => x), y: points.map(([, y]) => y) };
    }
    case 'notes': {
      if (typeof value !== 'string') throw refused(setting, value);
      const read = readKeys(words(value));
      if ('refused' in read) throw refused(setting, value, `${read.refused} is neither a note nor a chord`);
      if (read.keys.length < 1 || read.keys.length > setting.most) throw refused(setting, value);
      return { kind: 'notes', keys: read.keys };
    }
    case 'seed': {
      const seed = typeof value === 'string' && /^\d+$/.test(value.trim()) ? Number(value) : value;
      if (typeof seed !== 'number' || !Number.isInteger(seed) || seed < 0 || seed > HIGHEST_SEED) {
        throw refused(setting, value);
      }
      return { kind: 'seed', value: seed };
    }
    case 'sound': {
      const shipped = setting.shipped.some(({ id }) => id === value);
      if (!shipped && !(typeof value === 'string' && ASSET.test(value))) throw refused(setting, value);
      return { kind: 'sound', id: value as string, shipped };
    }
  }
}

function readOctaves(setting: OctavesSetting, value: unknown): readonly number[] {
  if (typeof value !== 'string') throw refused(setting, value);
  if (value.trim().toLowerCase() === 'flat') return OCTAVES_HZ.map(() => 1);
  const figure = (text: string, unit: Unit, [min, max]: readonly [number, number], word: string) => {
    const read = readFigure(unit, text);
    if (read === undefined) throw refused(setting, value, `${word} cannot be read`);
    if (read < min || read > max) throw refused(setting, value, `${word} lies outside`);
    return read;
  };
  const range = [setting.min, setting.max] as const;
  const written = words(value);
  if (!value.includes(':')) {
    if (written.length !== OCTAVES_HZ.length) throw refused(setting, value);
    return written.map((word) => figure(word, '', range, word));
  }
  const points = written.map((word) => {
    const at = word.lastIndexOf(':');
    if (at < 0) throw refused(setting, value, `${word} is no point`);
    const hz = figure(word.slice(0, at), 'Hz', [LOWEST_HZ, HIGHEST_HZ], word);
    return { hz, factor: figure(word.slice(at + 1), '', range, word) };
  });
  points.sort((a, b) => a.hz - b.hz);
  if (points.length < 1 || points.length > MOST_POINTS) throw refused(setting, value);
  const twice = points.find(({ hz }, n) => hz === points[n + 1]?.hz);
  if (twice) throw refused(setting, value, `${formatUnit('Hz', twice.hz)} is there twice`);
  const course = { x: points.map(({ hz }) => hz), y: points.map(({ factor }) => factor) };
  return OCTAVES_HZ.map((hz) => monotoneCurveAt(course, hz));
}

/** Factors by octave as a session holds them, to four digits. */
export function writeOctaves(factors: readonly number[]): string {
  return factors.every((one) => one === 1) ? 'flat' : factors.map((one) => Number(one.toPrecision(4))).join(',');
}

/** A path as a session holds it, to three digits. */
export function writePath(points: readonly { readonly x: number; readonly y: number }[]): string {
  return points.map(({ x, y }) => `${Number(x.toFixed(3))}:${Number(y.toFixed(3))}`).join(' ');
}

/**
 * The value that a session stores for what a person wrote: the same for every way of writing it.
 * @throws KinetikonError parameter.range
 */
export function normalSetting(setting: Setting, written: unknown): ParameterValue {
  const resolved = resolveSetting(setting, written);
  switch (resolved.kind) {
    case 'octaves':
      return writeOctaves(resolved.factors);
    case 'path':
      return writePath(resolved.x.map((x, n) => ({ x, y: resolved.y[n]! })));
    case 'notes':
      return writeKeys(resolved.keys);
    case 'seed':
      return resolved.value;
    case 'sound':
      return resolved.id;
  }
}
