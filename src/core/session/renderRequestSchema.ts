import * as yup from 'yup';
import { figuresOf } from '../effects/convolution/impulses/simulator';
import { simulatorById } from '../effects/convolution/impulses/simulators';
import { effectById, specOf } from '../effects/registry';
import { validateValues } from '../effects/resolve';
import { KinetikonError, messageOf } from '../errors';
import { OUTPUT_FORMATS } from '../formats/soundFormats';
import type { ImpulseSource } from '../jobs/kinds';
import { lookUp } from '../lookUp';
import { quoted } from '../text';
import { DELIVERIES } from './compile/bounce';
import { validateDocument } from './document';
import { assetId, figure, kindField, LONGEST_BEATS, record, shortText } from './fields';
import type { ChainEffect, RenderRequest } from './renderRequests';
import type { Print } from './records/prints';
import type { SessionDocument } from './records/document';

const LONGEST_TAIL_SECONDS = 600;
const MOST_EFFECTS = 64;

const rate = () => figure(8000, 192000);
const format = () =>
  yup
    .string()
    .strict()
    .required()
    .oneOf(OUTPUT_FORMATS.map(({ id }) => id));
const tail = () =>
  yup
    .mixed<'auto' | number>()
    .required()
    .test({
      message: `\${path} takes "auto" or 0 to ${LONGEST_TAIL_SECONDS} seconds`,
      test: (value) => value === 'auto' || (typeof value === 'number' && value >= 0 && value <= LONGEST_TAIL_SECONDS),
    });
const anything = () => yup.object().strict().required();

const SCHEMAS: Readonly<Record<RenderRequest['kind'], yup.AnyObjectSchema>> = {
  bounce: record({
    kind: kindField('bounce'),
    document: anything(),
    delivery: yup.string().strict().required().oneOf(DELIVERIES),
    fromBeat: figure(0, LONGEST_BEATS),
    toBeat: figure(0, LONGEST_BEATS).moreThan(yup.ref('fromBeat')),
    tailSeconds: tail(),
    format: format(),
    gainDb: figure(-100, 100),
  }),
  print: record({ kind: kindField('print'), document: anything(), recipe: anything() }),
  impulse: record({ kind: kindField('impulse'), from: anything(), sampleRateHz: rate() }),
  match: record({ kind: kindField('match'), impulse: anything(), sampleRateHz: rate() }),
  chain: record({
    kind: kindField('chain'),
    effects: yup
      .array(
        record({ effect: shortText(40).required(), bypass: yup.boolean().strict().required(), values: anything() }),
      )
      .strict()
      .required()
      .max(MOST_EFFECTS),
    sound: record({ id: assetId(), frames: figure(1, 2 ** 40).integer(), sampleRateHz: rate() }),
    tailSeconds: tail(),
    format: format(),
  }),
};

const bad = (message: string, cause?: unknown) =>
  new KinetikonError('request.invalid', message, { kept: 'Nothing was rendered.', cause });

/** @throws KinetikonError request.invalid */
function impulseSource(from: Record<string, unknown>): ImpulseSource {
  if (from.kind === 'shipped') {
    const impulses = specOf('convolution').settings?.find(({ kind }) => kind === 'sound');
    const known = impulses?.kind === 'sound' && impulses.shipped.some(({ id }) => id === from.id);
    if (!known) throw bad(`There is no impulse "${quoted(String(from.id))}".`);
    return { kind: 'shipped', id: String(from.id) };
  }
  const simulator = from.kind === 'simulated' ? simulatorById(String(from.simulator)) : undefined;
  if (!simulator) throw bad(`There is no simulator "${quoted(String(from.simulator))}".`);
  if (typeof from.values !== 'object' || from.values === null || !Number.isSafeInteger(from.seed)) {
    throw bad('An impulse needs the values of its simulator and a whole number as its seed.');
  }
  const source = from as unknown as Extract<ImpulseSource, { kind: 'simulated' }>;
  figuresOf(simulator, source.values);
  return { kind: 'simulated', simulator: source.simulator, values: source.values, seed: source.seed };
}

/** @throws KinetikonError request.invalid */
function matchedImpulse(impulse: Record<string, unknown>): { assetId: string } | { shippedId: string } {
  if (assetId().isValidSync(impulse.assetId)) return { assetId: impulse.assetId as string };
  const shipped = impulseSource({ kind: 'shipped', id: impulse.shippedId });
  return { shippedId: (shipped as { id: string }).id };
}

/** A recipe, checked as part of the document that it is of. */
function recipeIn(document: SessionDocument, recipe: unknown): Print['recipe'] {
  const id = 'asked-for';
  const print = { id, recipe, made: null };
  return validateDocument({ ...document, prints: { ...document.prints, [id]: print } }).prints[id]!.recipe;
}

/**
 * Checks a request that came from outside. Documents of older versions are brought up to date.
 * @throws KinetikonError request.invalid, and those of `validateDocument` and `validateValues`
 */
export function readRenderRequest(given: unknown): RenderRequest {
  const schema = lookUp<yup.AnyObjectSchema>(SCHEMAS, (given as { kind?: unknown } | null)?.kind);
  if (!schema) throw bad(`A render is one of ${Object.keys(SCHEMAS).join(', ')}.`);
  let request: RenderRequest;
  try {
    request = schema.validateSync(given, { strict: true }) as RenderRequest;
  } catch (error) {
    throw bad(`The request does not fit: ${messageOf(error)}.`, error);
  }
  switch (request.kind) {
    case 'bounce':
      return { ...request, document: validateDocument(request.document) };
    case 'print': {
      const document = validateDocument(request.document);
      return { ...request, document, recipe: recipeIn(document, request.recipe) };
    }
    case 'impulse':
      return { ...request, from: impulseSource(request.from as unknown as Record<string, unknown>) };
    case 'match':
      return { ...request, impulse: matchedImpulse(request.impulse as unknown as Record<string, unknown>) };
    case 'chain':
      return { ...request, effects: request.effects.map(checkedEffect) };
  }
}

const checkedEffect = ({ effect, bypass, values }: ChainEffect): ChainEffect => ({
  effect,
  bypass,
  values: validateValues(effectById(effect), { ...values }),
});
