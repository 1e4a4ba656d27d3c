import type { Echogram } from '../analysis/echogram';
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
      readonly inserts: readonly PlanInsert[];
      readonly sampleRateHz: number;
      readonly seconds: number;
      readonly slots: number;
    }
  | {
      readonly kind: 'bounce';
      readonly plan: Plan;
      readonly samples: readonly SharedSamples[];
      readonly range: RenderRange;
      readonly format: BounceFormat;
    };

export interface WorkerResults {
  decode: { left: Float32Array; right: Float32Array; originalFrames: number; originalRateHz: number; channels: number };
  echogram: Echogram;
  bounce: { bytes: Uint8Array; seconds: number };
}

export type ToWorker =
  { readonly id: number; readonly task: WorkerTask } | { readonly id: number; readonly cancel: true };

export type FromWorker =
  | { readonly id: number; readonly kind: 'progress'; readonly done: number }
  | { readonly id: number; readonly kind: 'result'; readonly result: WorkerResults[keyof WorkerResults] }
  | {
      readonly id: number;
      readonly kind: 'error';
      readonly code: ErrorCode | 'unexpected';
      readonly message: string;
      readonly kept: string | undefined;
      readonly next: string | undefined;
    };
