import * as yup from 'yup';
import { LATEST_START, LONGEST_ABOUT, MOST_MARKS, type SoundAbout } from '../../formats/about/about';
import { readHeard } from '../../formats/speakers';
import { FADE_SHAPES, type FadeShape } from '../../math/fades';
import { assetId, figure, flag, id, LONGEST_BEATS, name, record, kindField, shortText } from '../fields';
import { quoted } from '../../text';
import { TEMPO } from './session';

export const LONGEST_SECONDS = 36000;

const fadeShape = () => yup.string<FadeShape>().strict().required().oneOf(FADE_SHAPES);

/** The sound that a clip plays: a file, or the render of a print. */
export type ClipSource =
  { readonly kind: 'sound'; readonly assetId: string } | { readonly kind: 'print'; readonly printId: string };

export const sourceField = () =>
  yup.lazy((value: { kind?: unknown } | undefined) =>
    value?.kind === 'print'
      ? record({ kind: kindField('print'), printId: id() })
      : record({ kind: kindField('sound'), assetId: assetId() }),
  );

export const clipSchema = record({
  id: id(),
  trackId: id(),
  source: sourceField(),
  name: name(),
  startBeat: figure(0, LONGEST_BEATS),
  /** Sound left out at the beginning. */
  offsetSeconds: figure(0, LONGEST_SECONDS),
  lengthSeconds: figure(0.001, LONGEST_SECONDS),
  gainDb: figure(-100, 24),
  fadeInSeconds: figure(0, LONGEST_SECONDS),
  fadeInShape: fadeShape(),
  fadeOutSeconds: figure(0, LONGEST_SECONDS),
  fadeOutShape: fadeShape(),
  /** Plays its sound from the end. */
  reversed: flag(),
  mute: flag(),
});

/** What the file tells beside its sound, where it does. */
const aboutField = () =>
  yup
    .object({
      startSeconds: figure(0, LATEST_START).optional(),
      tempoBpm: figure(TEMPO.min, TEMPO.max).optional(),
      key: shortText(LONGEST_ABOUT).optional(),
      title: shortText(LONGEST_ABOUT).optional(),
      date: shortText(LONGEST_ABOUT).optional(),
      /** In order of time, in seconds of the sound. */
      marks: yup
        .array()
        .of(record({ seconds: figure(0, LONGEST_SECONDS * 10), name: shortText(LONGEST_ABOUT).required() }))
        .max(MOST_MARKS)
        .strict()
        .optional(),
    })
    .noUnknown()
    .strict()
    .optional()
    .default(undefined);

export const assetSchema = record({
  /** SHA-256 of the file, in hexadecimal. */
  id: assetId(),
  name: name(),
  frames: figure(1, 2 ** 40).integer(),
  sampleRateHz: figure(1000, 1000000).integer(),
  channels: figure(1, 64).integer(),
  /** What clips play of more than two channels (`speakers.ts`); their first two where it is left out. */
  heard: yup
    .string()
    .strict()
    .optional()
    .test({
      name: 'heard',
      message: ({ path, value }) => `${path} must be a choice among the channels of the sound, not "${quoted(value)}"`,
      test: (value, { parent }) =>
        value === undefined || readHeard(value, (parent as { channels: number }).channels) !== null,
    }),
  about: aboutField(),
});

export type Clip = Omit<yup.InferType<typeof clipSchema>, 'source'> & { source: ClipSource };
export type Asset = Omit<yup.InferType<typeof assetSchema>, 'about'> & { about?: SoundAbout | undefined };
