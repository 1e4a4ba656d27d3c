import * as yup from 'yup';
import { HIGHEST_KEY, LOWEST_KEY } from '../../effects/pitchNames';
import type { ParameterValue } from '../../effects/spec';
import { figure, flag, id, LONGEST_BEATS, record } from '../fields';

export const POINT_SHAPES = ['hold', 'straight', 'curved'] as const;
/** Most points in a lane. */
export const MOST_POINTS = 20000;

export const pointSchema = record({
  beat: figure(0, LONGEST_BEATS),
  /** A number, note value, switch or choice, as the parameter takes it. */
  value: yup.mixed<ParameterValue>().required(),
  /** Shape of the piece to the next point. */
  shape: yup.string<(typeof POINT_SHAPES)[number]>().strict().required().oneOf(POINT_SHAPES),
  /** Bend of a curved piece: -1 late to 1 early. */
  bend: figure(-1, 1),
});

/** Automation of one parameter of an effect, a strip, a send or a clip. */
export const laneSchema = record({
  id: id(),
  /** The insert, strip, send or clip. */
  ownerId: id(),
  parameter: yup.string().strict().required().max(80),
  /** Off while the control is set by hand. */
  on: flag(),
  points: yup.array(pointSchema).strict().required().max(MOST_POINTS),
  /** Moves opposite to another lane instead of by its own points. */
  mirrorOf: id().nullable().defined().default(null),
  /** Per cent of the other lane's movement. */
  mirrorAmount: figure(0, 200),
});

/** Shortest note: one tick of the finest MIDI file. */
export const SHORTEST_NOTE_BEATS = 1 / 15360;

/** A note of a strip, or of an effect that has notes of its own. */
export const noteSchema = record({
  id: id(),
  ownerId: id(),
  startBeat: figure(0, LONGEST_BEATS),
  lengthBeats: figure(SHORTEST_NOTE_BEATS, LONGEST_BEATS),
  /** MIDI key number. */
  key: figure(LOWEST_KEY, HIGHEST_KEY).integer(),
  /** MIDI velocity. */
  velocity: figure(1, 127).integer(),
});

export type Point = yup.InferType<typeof pointSchema>;
export type Lane = yup.InferType<typeof laneSchema>;
export type Note = yup.InferType<typeof noteSchema>;
