import '../yupLocale';
import * as yup from 'yup';
import type { Levels } from '../analysis/levels';
import type { JobResults } from '../jobs/kinds';
import { shortText } from '../session/fields';
import { NAME_LENGTH } from '../session/nameLength';
import type { RenderKind, RenderRequest } from '../session/renderRequests';
import { RENDER_STATES, type RenderState } from './renderStates';

/** Figures of a bounce, or of a sound through a chain. */
export type BounceFacts = Omit<JobResults['bounce'], 'bytes'> & {
  /** Levels of the sound before the chain. */
  readonly before?: Levels;
};

/** Figures of a result beside its bytes. */
export type RenderFacts =
  BounceFacts | Omit<JobResults['print'], 'bytes'> | { readonly sampleRateHz: number } | JobResults['match'];

/** Why a render failed, as people read it. */
export interface RenderError {
  readonly code: string;
  readonly message: string;
  readonly kept?: string | undefined;
  readonly next?: string | undefined;
}

/** A render as the list of renders shows it. */
export interface Render {
  readonly id: string;
  readonly kind: RenderKind;
  readonly name: string;
  readonly sessionId: string | null;
  readonly state: RenderState;
  /** 0 to 1. */
  readonly progress: number;
  /** The machine that it runs or ran on; null while it waits. */
  readonly machine: string | null;
  /** Versions that it needs a worker of, while none of those is alive; else null. */
  readonly waitsFor: string | null;
  readonly result: RenderFacts | null;
  /** Length of the sound file that came out. */
  readonly resultBytes: number | null;
  readonly error: RenderError | null;
  readonly createdAt: string;
  readonly startedAt: string | null;
  readonly endedAt: string | null;
}

/** Asks for a render. Asked for again with the same request, it answers with the one that is there. */
export interface RenderOrder {
  readonly request: RenderRequest;
  readonly name: string;
  readonly sessionId?: string | undefined;
  /** True when nobody waits for it. */
  readonly isBatch?: boolean | undefined;
}

export const renderOrder = yup
  .object({
    request: yup
      .object({ kind: yup.string().oneOf(['bounce', 'print', 'impulse', 'match', 'chain']).required() })
      .required(),
    name: shortText(NAME_LENGTH).trim().min(1).required(),
    sessionId: yup.string().strict().uuid().optional(),
    isBatch: yup.boolean().strict().optional(),
  })
  .noUnknown()
  .required();

const renderSchema = yup
  .object({
    id: yup.string().required(),
    kind: yup.string().required(),
    name: yup.string().required(),
    sessionId: yup.string().nullable().defined(),
    state: yup.string().oneOf(RENDER_STATES).required(),
    progress: yup.number().required(),
    machine: yup.string().nullable().defined(),
    waitsFor: yup.string().nullable().defined(),
    result: yup.mixed().nullable().defined(),
    resultBytes: yup.number().nullable().defined(),
    error: yup.object({ code: yup.string().required(), message: yup.string().required() }).nullable().defined(),
    createdAt: yup.string().required(),
    startedAt: yup.string().nullable().defined(),
    endedAt: yup.string().nullable().defined(),
  })
  .required();

export const renderResponse = renderSchema;

/** The list of renders. */
export interface RenderList {
  readonly renders: readonly Render[];
  /** True in a studio, where machines beside this one run renders. */
  readonly hasMachines: boolean;
}

export const renderListResponse = yup
  .object({ renders: yup.array(renderSchema).required(), hasMachines: yup.boolean().required() })
  .required();
