import type { Prepared } from '../effects/prepare';
import type { PageMemory } from '../pages/pagedSamples';
import type { PlanChange } from '../engine/plan';
import type { PlanDelta } from '../engine/planChanges';

/** Name under which the engine registers in the worklet. */
export const ENGINE_PROCESSOR = 'kinetikon-engine';

/** Frames that a browser asks for at a time. */
export const LIVE_BLOCK = 128;

/** Times that it is asked to work through a little of the plan ahead of the first sound. */
export const WARM_STEPS = 50;

export type ToWorklet =
  /** A plan, as what has changed since the last one; changes that came in between count as not made. */
  | { readonly kind: 'plan'; readonly plan: PlanDelta }
  | { readonly kind: 'changes'; readonly changes: readonly PlanChange[] }
  | { readonly kind: 'samples'; readonly assetId: string; readonly left: Float32Array; readonly right: Float32Array }
  /** A sound that is read by pages, which lie in the memory below. */
  | {
      readonly kind: 'paged';
      readonly assetId: string;
      readonly frames: number;
      readonly sides: 1 | 2;
      readonly table: Int32Array;
    }
  | { readonly kind: 'pageMemory'; readonly memory: PageMemory }
  /** Lets a sound go. */
  | { readonly kind: 'drop'; readonly assetId: string }
  /** A prepared resource, by the key that plans use. */
  | { readonly kind: 'resource'; readonly key: string; readonly prepared: Prepared }
  /** Watches the sound before and after an insert or a strip through this memory; null ends it. */
  | { readonly kind: 'probe'; readonly targetId: string; readonly memory: SharedArrayBuffer | null }
  /** Another listening place; null is the plain one. */
  | { readonly kind: 'listen'; readonly prepared: Prepared | null }
  | { readonly kind: 'guard'; readonly on: boolean }
  /** After the guard has stopped the sound: effects begin from silence, and it is heard again. */
  | { readonly kind: 'resume' }
  /** Works through a little of the plan unheard, so that what is heard later finds everything ready. */
  | { readonly kind: 'warm' }
  | { readonly kind: 'play' }
  | { readonly kind: 'stop' }
  | { readonly kind: 'seek'; readonly frame: number };

export type FromWorklet =
  /** The engine threw while taking up a message: it plays on as before. */
  | { readonly kind: 'failure'; readonly message: string }
  /** A strip threw while sound runs: it is silent and built anew a little later, of the plan as it is then. */
  | {
      readonly kind: 'fault';
      readonly stripId: string;
      readonly insertId: string | null;
      readonly message: string;
      readonly count: number;
    };

export interface EngineProcessorOptions {
  readonly meters: SharedArrayBuffer;
  /** The compiled WebAssembly kernels. */
  readonly kernels: WebAssembly.Module;
  /** Position to start from, in frames. Messages come after the first blocks, which report a position already. */
  readonly frame: number;
}
