import * as yup from 'yup';
import { FADE_SHAPES, type FadeShape } from '../../math/fades';
import { assetId, figure, flag, id, LONGEST_BEATS, name, record, kindField } from '../fields';

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

export const assetSchema = record({
  /** SHA-256 of the file, in hexadecimal. */
  id: assetId(),
  name: name(),
  frames: figure(1, 2 ** 40).integer(),
  sampleRateHz: figure(1000, 1000000).integer(),
  channels: figure(1, 64).integer(),
});

export type Clip = Omit<yup.InferType<typeof clipSchema>, 'source'> & { source: ClipSource };
export type Asset = yup.InferType<typeof assetSchema>;
