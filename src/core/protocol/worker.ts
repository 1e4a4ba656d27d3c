import type { SentError } from './sentError';
import type { JobKind, JobResults, Task } from '../jobs/kinds';

export type ToWorker =
  /** The compiled WebAssembly kernels, which tasks wait for. */
  | { readonly kernels: WebAssembly.Module }
  | { readonly id: number; readonly task: Task }
  | { readonly id: number; readonly cancel: true };

export type FromWorker =
  | { readonly id: number; readonly kind: 'progress'; readonly done: number }
  /** A sound that is being filled from its beginning on, as far as the progress tells. */
  | { readonly id: number; readonly kind: 'begun'; readonly left: Float32Array; readonly right: Float32Array }
  | { readonly id: number; readonly kind: 'result'; readonly result: JobResults[JobKind]; readonly file: Blob | null }
  | ({ readonly id: number; readonly kind: 'error' } & SentError);
