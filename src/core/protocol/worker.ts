import type { Levels } from '../analysis/levels';
import type { Echogram } from '../analysis/echogram';
import type { Phrases } from '../analysis/phrases';
import type { Picture } from '../analysis/pictures';
import type { ErrorCode } from '../errors';
import type { Plan, PlanInsert } from '../engine/plan';
import type { RenderRange } from '../engine/render';

export type BounceFormat = '16' | '24' | '32f' | 'flac';

/** A sound in shared memory at the session's rate; mono when right is left. */
export interface SharedSamples {
  readonly assetId: string;
  readonly left: Float32Array;
  readonly right: Float32Array;
}

export type WorkerTask =
  | { readonly kind: 'decode'; readonly bytes: ArrayBuffer; readonly name: string; readonly sampleRateHz: number }
  | {
      readonly kind: 'echogram';
      /** A chain, or one effect whose lines are told apart: then all of it comes first, and its lines follow. */
      readonly inserts: readonly PlanInsert[];
      readonly apart: boolean;
      readonly sampleRateHz: number;
      readonly seconds: number;
      readonly slots: number;
    }
  | {
      readonly kind: 'picture';
      readonly picture: Picture['kind'];
      readonly inserts: readonly PlanInsert[];
      readonly sampleRateHz: number;
      readonly seconds: number;
    }
  | {
      /** Renders a plan: for prints that stay inside the session. */
      readonly kind: 'print';
      readonly plan: Plan;
      readonly samples: readonly SharedSamples[];
      readonly range: RenderRange;
    }
  | {
      /** Loudness of plans over the same range, LUFS; null is silence. */
      readonly kind: 'loudness';
      readonly plans: readonly Plan[];
      readonly samples: readonly SharedSamples[];
      readonly range: RenderRange;
    }
  | {
      /** Words and pauses of a sound, and how loud the words are. */
      readonly kind: 'phrases';
      readonly plan: Plan;
      readonly samples: readonly SharedSamples[];
      readonly range: RenderRange;
    }
  | {
      readonly kind: 'bounce';
      readonly plan: Plan;
      readonly samples: readonly SharedSamples[];
      readonly range: RenderRange;
      readonly format: BounceFormat;
      /** Added to the whole. */
      readonly gainDb: number;
    };

export interface WorkerResults {
  decode: { left: Float32Array; right: Float32Array; originalFrames: number; originalRateHz: number; channels: number };
  echogram: readonly Echogram[];
  picture: Picture;
  print: { bytes: Uint8Array };
  loudness: readonly (number | null)[];
  phrases: Phrases;
  bounce: { bytes: Uint8Array; seconds: number; levels: Levels; clipped: number };
}

export type ToWorker =
  { readonly id: number; readonly task: WorkerTask } | { readonly id: number; readonly cancel: true };

export type FromWorker =
  | { readonly id: number; readonly kind: 'progress'; readonly done: number }
  /** A sound that is being filled from its beginning on, as far as the progress tells. */
  | { readonly id: number; readonly kind: 'begun'; readonly left: Float32Array; readonly right: Float32Array }
  | { readonly id: number; readonly kind: 'result'; readonly result: WorkerResults[keyof WorkerResults] }
  | {
      readonly id: number;
      readonly kind: 'error';
      readonly code: ErrorCode | 'unexpected';
      readonly message: string;
      readonly kept: string | undefined;
      readonly next: string | undefined;
    };
