import * as yup from 'yup';
import { lookUp } from '../../lookUp';
import type { ParameterValue } from '../../effects/spec';
import { assetId, figure, flag, id, record, kindField } from '../fields';
import { LONGEST_SECONDS, type ClipSource, sourceField } from './clips';
import { insertSchema, type Insert } from './inserts';

/** A strip with all its effects, before its fader. */
const stripRecipe = () => record({ kind: kindField('strip'), stripId: id() });
/** A clip through the effects of its track. */
const clipRecipe = () => record({ kind: kindField('clip'), clipId: id() });
/** A reverse reverb that grows towards a place in a clip. */
const swellRecipe = () =>
  record({
    kind: kindField('swell'),
    clipId: id(),
    /** Landing of the swell, in seconds of the clip's sound. */
    landSeconds: figure(0, LONGEST_SECONDS),
    space: yup.lazy((value: { kind?: unknown } | undefined) =>
      value?.kind === 'return'
        ? record({ kind: kindField('return'), returnId: id() })
        : record({ kind: kindField('own'), inserts: yup.array(insertSchema).strict().required().max(16) }),
    ),
    /** Values of `SWELL_PARAMETERS`; missing ones have their default. */
    values: yup.object().strict().required(),
  });
/** A sound without its flaws. */
const repairRecipe = () =>
  record({
    kind: kindField('repair'),
    source: sourceField(),
    removeDc: flag(),
    /** Corner of a high-pass; 0 is none. */
    rumbleHz: figure(0, 400),
  });
const RECIPES = { strip: stripRecipe(), clip: clipRecipe(), swell: swellRecipe(), repair: repairRecipe() };

const NO_RECIPE: yup.AnyObjectSchema = record({ kind: yup.string().oneOf(Object.keys(RECIPES)).required() });

/** Space of a swell: the inserts of a return, or inserts of its own. */
export type SwellSpace =
  | { readonly kind: 'return'; readonly returnId: string }
  | { readonly kind: 'own'; readonly inserts: readonly Insert[] };
export type SwellRecipe = Omit<yup.InferType<ReturnType<typeof swellRecipe>>, 'space' | 'values'> & {
  space: SwellSpace;
  values: Record<string, ParameterValue>;
};
export type RepairRecipe = Omit<yup.InferType<ReturnType<typeof repairRecipe>>, 'source'> & { source: ClipSource };
export type PrintRecipe =
  | yup.InferType<ReturnType<typeof stripRecipe>>
  | yup.InferType<ReturnType<typeof clipRecipe>>
  | SwellRecipe
  | RepairRecipe;

/** A sound rendered from other records of the session: its recipe, and its last render. */
export const printSchema = record({
  id: id(),
  recipe: yup.lazy(
    (value: { kind?: unknown } | undefined) => lookUp<yup.AnyObjectSchema>(RECIPES, value?.kind) ?? NO_RECIPE,
  ),
  /** The render; null before the first. */
  made: yup
    .object({
      assetId: assetId(),
      /** Fingerprint of everything that it was rendered from, to notice changes. */
      fingerprint: yup.string().strict().defined().max(80),
      /** Place of a swell's landing in it; 0 for others. */
      landSeconds: figure(0, LONGEST_SECONDS),
    })
    .noUnknown()
    .strict()
    .nullable()
    .defined()
    .default(null),
});

export type Print = Omit<yup.InferType<typeof printSchema>, 'recipe'> & { recipe: PrintRecipe };
