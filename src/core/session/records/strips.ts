import * as yup from 'yup';
import type { Tap } from '../../engine/plan';
import { figure, flag, id, name, record } from '../fields';

/** Id of the main output. */
export const MAIN_ID = 'main';

export const PAN_MODES = ['balance', 'stereo'] as const;
export type PanMode = (typeof PAN_MODES)[number];

const stripShape = {
  id: id(),
  name: name(),
  /** -100 is silence. */
  gainDb: figure(-100, 12),
  /** -100 left to 100 right. */
  pan: figure(-100, 100),
  mute: flag(),
  solo: flag(),
  /** All its effects are bypassed. */
  bypass: flag(),
  insertIds: yup.array(id()).strict().required(),
  /** Pan lowers the far side (balance), or moves it into the near one (stereo). */
  panMode: yup.string<PanMode>().strict().required().oneOf(PAN_MODES),
  /** Decibels lost in mono from which it is marked. */
  monoLimitDb: figure(0.5, 24),
};

const channelShape = {
  ...stripShape,
  /** The main output or a group. */
  outputId: id(),
  /** The print of it with all effects, which plays in their place. */
  frozen: id().nullable().defined().default(null),
  /** Insert that places it on the stage, behind its fader and its sends; null if it is not on the stage. */
  placeId: id().nullable().defined().default(null),
  /** It moves as the mirror image of another strip that stands on the stage. */
  oppositeOf: id().nullable().defined().default(null),
};

export const mainSchema = record(stripShape);
export const trackSchema = record(channelShape);
export const returnSchema = record({
  ...channelShape,
  /** A return is fed by sends, a group by the outputs of tracks. */
  role: yup
    .string<'return' | 'group'>()
    .strict()
    .required()
    .oneOf(['return', 'group'] as const),
});

export const TAPS = ['beforeFader', 'afterFader'] as const;

export const sendSchema = record({
  id: id(),
  fromId: id(),
  toId: id(),
  gainDb: figure(-100, 12),
  tap: yup.string<Tap>().strict().required().oneOf(TAPS),
  mute: flag(),
});

export type Strip = yup.InferType<typeof mainSchema>;
export type Track = yup.InferType<typeof trackSchema>;
export type Return = yup.InferType<typeof returnSchema>;
export type Send = yup.InferType<typeof sendSchema>;
