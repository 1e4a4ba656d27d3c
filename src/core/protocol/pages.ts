import type { PagePlan } from '../pages/neededPages';
import type { SentError } from './sentError';

/** To the worker that reads long sounds by pages. */
export type ToPages =
  | {
      readonly kind: 'begin';
      /** The compiled WebAssembly kernels. */
      readonly kernels: WebAssembly.Module;
      /** The engine's meters, which tell where it plays. */
      readonly meters: SharedArrayBuffer;
    }
  | {
      readonly kind: 'open';
      readonly soundId: string;
      readonly name: string;
      readonly sampleRateHz: number;
    }
  /** The playhead is going to jump there; null if it has jumped elsewhere. */
  | { readonly kind: 'reach'; readonly frame: number | null }
  | { readonly kind: 'close'; readonly soundId: string }
  /** One page is wanted for a drawing. */
  | { readonly kind: 'page'; readonly soundId: string; readonly page: number }
  | { readonly kind: 'plan'; readonly plan: PagePlan };

export type FromPages =
  | { readonly kind: 'counters'; readonly counters: Int32Array }
  | { readonly kind: 'chunk'; readonly chunk: Float32Array }
  | {
      readonly kind: 'opened';
      readonly soundId: string;
      /** Null for a sound that can only be read as a whole. */
      readonly sound: { readonly frames: number; readonly sides: 1 | 2; readonly table: Int32Array } | null;
    }
  /** How far a sound is that has to be unrolled before it can be opened, 0 to 1. */
  | { readonly kind: 'unrolling'; readonly done: number }
  /** One that was wanted for a drawing, one array a side; none if it could not be had. */
  | {
      readonly kind: 'page';
      readonly soundId: string;
      readonly page: number;
      readonly sides: readonly Float32Array[] | null;
    }
  | { readonly kind: 'failed'; readonly soundId: string; readonly error: SentError }
  /** A page could not be had, which is tried again; or sounds are not kept. */
  | { readonly kind: 'problem'; readonly soundId: string; readonly error: SentError };
