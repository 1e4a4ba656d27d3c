import '../yupLocale';
import * as yup from 'yup';
import type { PresetFile } from '../formats/preset';
import {
  changesSchema,
  count,
  HISTORY_LENGTH,
  stepSchema,
  type History,
  type HistoryChange,
} from '../session/storedHistory';
import { NAME_LENGTH } from '../session/nameLength';
import { shortText } from '../session/fields';
import type { Change } from '../session/changes';
import { assetSchema } from '../session/records/clips';
import type { SessionDocument } from '../session/records/document';

/** Carries the token of a data folder's owner: a server of another folder refuses the request. */
export const OWNER_HEADER = 'x-kinetikon-owner';

/** Largest sound file that can be brought in, and largest session, in bytes. */
export const MAXIMUM_ASSET_BYTES = 8 * 1024 * 1024 * 1024;
export const MAXIMUM_SESSION_BYTES = 64 * 1024 * 1024;

/** Saves without an answer that are remembered; older ones have long been overtaken. */
export const MOST_UNANSWERED = 100;

/** A line of the list of sessions. */
export interface SessionSummary {
  readonly id: string;
  readonly name: string;
  readonly revision: number;
  readonly tracks: number;
  readonly seconds: number;
  /** It began as a copy of the demo. */
  readonly fromDemo: boolean;
  /**
   * The clips as they lie: lane, beginning and end, the last two as parts of the whole; and how loud they are from there
   * to there, in digits of base 36.
   */
  readonly picture: readonly (readonly [lane: number, from: number, to: number, levels?: string])[];
  readonly updatedAt: string;
  /** Time at which it was put into the bin; null if it is not there. */
  readonly binnedAt: string | null;
}

export const SESSION_ORDERS = ['changed', 'name', 'length'] as const;
export type SessionOrder = (typeof SESSION_ORDERS)[number];

/** Most sessions on one page of the list. */
export const MAXIMUM_PAGE = 200;

/** Search, order and page of the list of sessions. */
export interface SessionQuery {
  /** A part of the name, in capitals or not. */
  readonly search?: string;
  readonly order?: SessionOrder;
  /** True for those in the bin. */
  readonly binned?: boolean;
  /** `next` of the page before; null for the first page. */
  readonly after?: string | null;
  /** Sessions on a page, 1 to `MAXIMUM_PAGE`. */
  readonly limit?: number;
}

/** A page of the list of sessions. */
export interface SessionListPage {
  readonly sessions: readonly SessionSummary[];
  /** Leads to the next page; null on the last. */
  readonly next: string | null;
  /** Number of all sessions that are not in the bin. */
  readonly kept: number;
  readonly binned: number;
}

/** A session as it is stored. */
export interface StoredSession {
  readonly id: string;
  readonly revision: number;
  /** The save that it is from, as its caller named it. */
  readonly saveId: string | null;
  readonly document: SessionDocument;
  readonly history: History;
}

const uuid = () => yup.string().strict().uuid();

export const createSessionRequest = yup
  .object({
    /** Chosen by the caller, who asks again with the same one when no answer came: it is made once. */
    id: uuid().optional(),
    /** Left out, it gets one that is free. */
    name: shortText(NAME_LENGTH).trim().min(1).optional(),
    /** True to put a number behind the name where another session has it. */
    isNameFreed: yup.boolean().strict().optional(),
    document: yup.object().optional(),
    history: yup.object().optional(),
  })
  .noUnknown()
  .required();

/** Changes of a session that need no document. */
export const changeSessionRequest = yup
  .object({
    name: shortText(NAME_LENGTH).trim().min(1).optional(),
    binned: yup.boolean().strict().optional(),
  })
  .noUnknown()
  .required();

export type ChangeSessionRequest = yup.InferType<typeof changeSessionRequest>;

export const saveSessionRequest = yup
  .object({
    revision: count().min(1),
    saveId: uuid().required(),
    unanswered: yup.array(uuid().required()).strict().required().max(MOST_UNANSWERED),
    changes: changesSchema.optional(),
    checksum: yup
      .string()
      .strict()
      .required()
      .matches(/^[0-9a-f]{16}$/, '${path} must be a document checksum'),
    document: yup.object().optional(),
    history: yup
      .object({
        keep: count(),
        append: yup
          .array(stepSchema)
          .strict()
          .required()
          .max(2 * HISTORY_LENGTH),
        first: count(),
        cursor: count(),
      })
      .noUnknown()
      .required(),
  })
  .noUnknown()
  .required();

export interface SaveSessionRequest {
  /** The revision the caller has seen. */
  readonly revision: number;
  /** Names this save. */
  readonly saveId: string;
  /** Earlier saves of the caller whose answers have not come: the session may be one of those already. */
  readonly unanswered: readonly string[];
  /** Changes since the revision; left out with `document`. */
  readonly changes?: readonly Change[] | undefined;
  /** The whole document, sent once the server's copy has diverged. */
  readonly document?: SessionDocument | undefined;
  /** `documentChecksum` of the resulting document. */
  readonly checksum: string;
  /** Change of the history since the revision. */
  readonly history: HistoryChange;
}

export const sessionSummarySchema = yup
  .object({
    id: yup.string().required(),
    name: yup.string().required(),
    revision: yup.number().required(),
    tracks: yup.number().required(),
    seconds: yup.number().required(),
    picture: yup
      .array(
        yup
          .tuple([yup.number().required(), yup.number().required(), yup.number().required(), yup.string().optional()])
          .required(),
      )
      .required(),
    updatedAt: yup.string().required(),
    fromDemo: yup.boolean().required(),
    binnedAt: yup.string().nullable().defined(),
  })
  .required();

export const sessionQuery = yup
  .object({
    search: shortText(NAME_LENGTH).optional(),
    order: yup.string().oneOf(SESSION_ORDERS).optional(),
    binned: yup.boolean().optional(),
    after: yup.string().max(2000).optional(),
    limit: yup.number().integer().min(1).max(MAXIMUM_PAGE).optional(),
  })
  .noUnknown()
  .required();

export const sessionListResponse = yup
  .object({
    sessions: yup.array(sessionSummarySchema).required(),
    next: yup.string().nullable().defined(),
    kept: yup.number().required(),
    binned: yup.number().required(),
  })
  .required();

export const soundListResponse = yup.object({ assets: yup.array(assetSchema.required()).required() }).required();

export const sessionMadeResponse = yup.object({ id: yup.string().required() }).required();

export const storedSessionResponse = yup
  .object({
    id: yup.string().required(),
    revision: yup.number().required(),
    saveId: yup.string().nullable().defined(),
    document: yup.object().required(),
    history: yup.object().required(),
  })
  .required();

/** The new revision, and how much room the disk of the server has left, where that is known. */
export const savedResponse = yup
  .object({ revision: yup.number().required(), freeBytes: yup.number().nullable().defined() })
  .required();

export type SavedResponse = yup.InferType<typeof savedResponse>;

export const assetResponse = yup.object({ asset: assetSchema.required() }).required();

/** A sound that nothing uses. */
export interface UnusedAsset {
  readonly id: string;
  readonly name: string;
  readonly bytes: number;
}

export const unusedAssetsResponse = yup
  .object({
    unused: yup
      .array(
        yup
          .object({ id: yup.string().required(), name: yup.string().required(), bytes: yup.number().required() })
          .required(),
      )
      .required(),
  })
  .required();

export const errorResponse = yup
  .object({
    error: yup
      .object({
        code: yup.string().required(),
        message: yup.string().required(),
        kept: yup.string(),
        next: yup.string(),
      })
      .required(),
  })
  .required();

/** A preset as it is stored. */
export interface StoredPreset {
  readonly id: string;
  readonly preset: PresetFile;
}

export interface PresetList {
  readonly presets: readonly StoredPreset[];
  /** Ids of stored presets, and of shipped ones as `factory/EFFECT/ID`. */
  readonly favourites: readonly string[];
}

export const presetListResponse = yup
  .object({
    presets: yup
      .array(yup.object({ id: yup.string().required(), preset: yup.object().required() }).required())
      .required(),
    favourites: yup.array(yup.string().required()).required(),
  })
  .required();

export const storedPresetResponse = yup
  .object({ id: yup.string().required(), preset: yup.object().required() })
  .required();

export const favouriteRequest = yup
  .object({ id: shortText(120).required(), on: yup.boolean().strict().required() })
  .noUnknown()
  .required();

export { renderListResponse, renderResponse } from './renders';
