import * as yup from 'yup';
import { SHAPE_IDS, type ShapeId } from '../../effects/oscillatorShapes';
import { number } from '../../effects/spec';
import { figure, flag, id, name, record } from '../fields';
import { TAPS } from './strips';

/** Input of a follower: a strip, or the input of each effect that it moves. */
const FOLLOW_TAPS = [...TAPS, 'effectInput'] as const;

/** A parameter of an effect that a modulator moves, by a share of its ruler. */
const targetSchema = record({
  insertId: id(),
  parameter: yup.string().strict().required().max(80),
  /** Per cent of the ruler; below zero turned over. */
  depth: figure(-100, 100),
  /** To both sides of the value, only up from it, or only down. */
  polarity: yup
    .string<'both' | 'up' | 'down'>()
    .strict()
    .required()
    .oneOf(['both', 'up', 'down'] as const),
});

/** Rate of a modulator. */
export const MODULATOR_RATE = number({
  id: 'rate',
  name: 'Rate',
  unit: 'Hz',
  min: 0.01,
  max: 20,
  default: '1/2',
  scale: 'log',
  sync: 'rate',
  help: 'Cycles, steps or points a second, or one for each note value.',
});

export const MODULATOR_KINDS = ['oscillator', 'follower', 'pattern', 'walk', 'hand'] as const;
export const MODULATOR_STEPS = 32;

/** A source of movement for parameters of any effects. */
export const modulatorSchema = record({
  id: id(),
  name: name(),
  on: flag(),
  kind: yup.string<(typeof MODULATOR_KINDS)[number]>().strict().required().oneOf(MODULATOR_KINDS),
  /** Cycles, steps or points a second, or one for each note value. */
  rate: yup.mixed<number | string>().required(),
  shape: yup.string<ShapeId>().strict().required().oneOf(SHAPE_IDS),
  phaseDegrees: figure(0, 360),
  smoothingSeconds: figure(0, 5),
  /** Steps of a pattern, -1 to 1. */
  steps: yup.array(figure(-1, 1)).strict().required().min(1).max(MODULATOR_STEPS),
  /** The strip a follower listens to; null for none yet, or for the input of each effect it moves. */
  followId: id().nullable().defined().default(null),
  followTap: yup.string<(typeof FOLLOW_TAPS)[number]>().strict().required().oneOf(FOLLOW_TAPS),
  attackSeconds: figure(0.0001, 1),
  releaseSeconds: figure(0.001, 10),
  /** Added to the level that is followed. */
  sensitivityDb: figure(-24, 48),
  /** MIDI controller that moves the macro; null for none. */
  controller: figure(0, 127).integer().nullable().defined().default(null),
  /** Position of a macro, 0 to 1. */
  handPart: figure(0, 1),
  targets: yup.array(targetSchema).strict().required().max(64),
});

export type Modulator = yup.InferType<typeof modulatorSchema>;
export type ModulationTarget = yup.InferType<typeof targetSchema>;
