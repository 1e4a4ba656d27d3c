import { KinetikonError } from '../errors';
import { quoted } from '../text';
import { readKeys, writeKeys } from './chords';
import { formatUnit, readFigure, type Unit } from './units';
import type { Needs, ParameterValue } from './values';

interface SettingBase {
  /** The contract: command line, presets and sessions use it. */
  readonly id: string;
  readonly name: string;
  /** One plain line. */
  readonly help: string;
  readonly group: string;
  readonly needs?: Needs;
}

export interface Axis {
  readonly name: string;
  readonly unit: Unit;
  readonly min: number;
  readonly max: number;
  readonly scale: 'linear' | 'log';
}

/** A course of one thing over another, written as points: `125:2.4,1k:1.8`. */
export interface CurveSetting extends SettingBase {
  readonly kind: 'curve';
  readonly x: Axis;
  readonly y: Axis;
  readonly mostPoints: number;
  /** The value that `flat` stands for, if it can be written. */
  readonly flat?: number;
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
export type Setting = CurveSetting | PathSetting | NotesSetting | SeedSetting | SoundSetting;

export const HIGHEST_SEED = 9999;
/** Assets are called by their SHA-256 sum. */
const ASSET = /^[0-9a-f]{64}$/;

/** A setting as a kernel takes it. */
export type ResolvedSetting =
  /** Points from the lowest x up. */
  | { readonly kind: 'curve'; readonly x: readonly number[]; readonly y: readonly number[] }
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
    case 'curve': {
      const range = ({ unit, min, max }: Axis) => `${formatUnit(unit, min)} to ${formatUnit(unit, max)}`;
      const flat = setting.flat === undefined ? '' : 'flat or ';
      return `${flat}1 to ${setting.mostPoints} points such as ${setting.default}, of ${range(setting.x)} and ${range(setting.y)}`;
    }
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
    case 'curve':
      return readCurve(setting, value);
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

function readCurve(setting: CurveSetting, value: unknown): ResolvedSetting {
  if (typeof value !== 'string') throw refused(setting, value);
  if (setting.flat !== undefined && value.trim().toLowerCase() === 'flat') {
    return { kind: 'curve', x: [setting.x.min], y: [setting.flat] };
  }
  const points = words(value).map((word) => {
    const at = word.lastIndexOf(':');
    const x = readFigure(setting.x.unit, word.slice(0, at));
    const y = readFigure(setting.y.unit, word.slice(at + 1));
    if (at < 0 || x === undefined || y === undefined) throw refused(setting, value, `${word} is no point`);
    for (const [axis, figure] of [[setting.x, x] as const, [setting.y, y] as const]) {
      if (figure < axis.min || figure > axis.max) throw refused(setting, value, `${word} lies outside`);
    }
    return { x, y };
  });
  points.sort((a, b) => a.x - b.x);
  if (points.length < 1 || points.length > setting.mostPoints) throw refused(setting, value);
  const twice = points.find(({ x }, n) => x === points[n + 1]?.x);
  if (twice) throw refused(setting, value, `${formatUnit(setting.x.unit, twice.x)} is there twice`);
  return { kind: 'curve', x: points.map(({ x }) => x), y: points.map(({ y }) => y) };
}

type Points = readonly { readonly x: number; readonly y: number }[];
const short = (figure: number) => String(Number(figure.toPrecision(6)));

/** A curve as a session holds it. */
export function writeCurve(points: Points): string {
  return points.map(({ x, y }) => `${short(x)}:${short(y)}`).join(',');
}

/** A path as a session holds it, to three digits. */
export function writePath(points: Points): string {
  return points.map(({ x, y }) => `${Number(x.toFixed(3))}:${Number(y.toFixed(3))}`).join(' ');
}

/**
 * The value that a session stores for what a person wrote: the same for every way of writing it.
 * @throws KinetikonError parameter.range
 */
export function normalSetting(setting: Setting, written: unknown): ParameterValue {
  const resolved = resolveSetting(setting, written);
  switch (resolved.kind) {
    case 'curve':
      if (setting.kind === 'curve' && resolved.x.length === 1 && resolved.y[0] === setting.flat) return 'flat';
      return writeCurve(resolved.x.map((x, n) => ({ x, y: resolved.y[n]! })));
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
