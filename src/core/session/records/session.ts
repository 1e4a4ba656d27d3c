import * as yup from 'yup';
import { figure, flag, id, LONGEST_BEATS, name, record } from '../fields';

export const TEMPO = { min: 20, max: 300 } as const;
export const RATES_HZ = [44100, 48000, 96000] as const;
export const TONICS = ['C', 'C#', 'D', 'Eb', 'E', 'F', 'F#', 'G', 'Ab', 'A', 'Bb', 'B'] as const;
export const MODES = ['major', 'minor', 'dorian', 'phrygian', 'lydian', 'mixolydian', 'locrian'] as const;

export const SHORTEST_SECTION_BEATS = 0.25;

export const sessionSchema = record({
  name: name(),
  /** Quarter notes a minute. */
  tempoBpm: figure(TEMPO.min, TEMPO.max).label('the tempo'),
  metreBeats: figure(1, 16).integer(),
  metreUnit: yup.number().strict().required().oneOf([2, 4, 8, 16]),
  keyTonic: yup.string().strict().required().oneOf(TONICS),
  keyMode: yup.string().strict().required().oneOf(MODES),
  sampleRateHz: yup.number().strict().required().oneOf(RATES_HZ),
  loopOn: flag(),
  loopStartBeat: figure(0, LONGEST_BEATS),
  loopEndBeat: figure(0, LONGEST_BEATS),
  trackIds: yup.array(id()).strict().required(),
  /** Returns and groups. */
  returnIds: yup.array(id()).strict().required(),
  /** Every effect of the session is bypassed. */
  effectsOff: flag(),
  /** Only what comes through returns is heard. */
  wetOnly: flag(),
  /** A bounce uses the finest quality that effects have, whatever is heard live. */
  bounceFinest: flag(),
  /** Output of the stage, and the centre level of its pan law, in dB under one side. */
  stage: yup
    .string<'speakers' | 'headphones'>()
    .strict()
    .required()
    .oneOf(['speakers', 'headphones'] as const),
  panLaw: yup
    .string<'3' | '4.5' | '6'>()
    .strict()
    .required()
    .oneOf(['3', '4.5', '6'] as const),
});

export const sectionSchema = record({
  id: id(),
  name: name(),
  startBeat: figure(0, LONGEST_BEATS),
  lengthBeats: figure(SHORTEST_SECTION_BEATS, LONGEST_BEATS),
});

export type SessionRecord = yup.InferType<typeof sessionSchema>;
export type Section = yup.InferType<typeof sectionSchema>;
