import * as yup from 'yup';
import type { PresetFile } from '../formats/preset';
import type { History } from '../session/history';
import { NAME_LENGTH, type Asset, type SessionDocument } from '../session/records';

/** Largest sound file that can be brought in, and largest session, in bytes. */
export const MAXIMUM_ASSET_BYTES = 1024 * 1024 * 1024;
export const MAXIMUM_SESSION_BYTES = 64 * 1024 * 1024;

/** A line of the list of sessions. */
export interface SessionSummary {
  readonly id: string;
  readonly name: string;
  readonly revision: number;
  readonly tracks: number;
  readonly seconds: number;
  /** The clips as they lie: lane, beginning and end, the last two as parts of the whole. */
  readonly picture: readonly (readonly [lane: number, from: number, to: number])[];
  readonly updatedAt: string;
}

/** A session as it is stored. */
export interface StoredSession {
  readonly id: string;
  readonly revision: number;
  readonly document: SessionDocument;
  readonly history: History;
}

export const createSessionRequest = yup
  .object({
    name: yup.string().trim().required().max(NAME_LENGTH),
    document: yup.object().optional(),
    history: yup.object().optional(),
  })
  .noUnknown()
  .required();

export const saveSessionRequest = yup
  .object({
    revision: yup.number().strict().integer().min(1).required(),
    document: yup.object().required(),
    history: yup
      .object({
        past: yup.array(yup.object().required()).required(),
        future: yup.array(yup.object().required()).required(),
      })
      .noUnknown()
      .required(),
  })
  .noUnknown()
  .required();

export interface SaveSessionRequest {
  readonly revision: number;
  readonly document: SessionDocument;
  readonly history: History;
}

export const sessionSummarySchema = yup
  .object({
    id: yup.string().required(),
    name: yup.string().required(),
    revision: yup.number().required(),
    tracks: yup.number().required(),
    seconds: yup.number().required(),
    picture: yup
      .array(yup.tuple([yup.number().required(), yup.number().required(), yup.number().required()]).required())
      .required(),
    updatedAt: yup.string().required(),
  })
  .required();

export const sessionListResponse = yup.object({ sessions: yup.array(sessionSummarySchema).required() }).required();

export const storedSessionResponse = yup
  .object({
    id: yup.string().required(),
    revision: yup.number().required(),
    document: yup.object().required(),
    history: yup.object().required(),
  })
  .required();

export const savedResponse = yup.object({ revision: yup.number().required() }).required();

export interface AssetResponse {
  readonly asset: Asset;
}

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
  .object({ id: yup.string().strict().required().max(120), on: yup.boolean().strict().required() })
  .noUnknown()
  .required();
