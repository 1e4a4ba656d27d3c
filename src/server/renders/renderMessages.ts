import type { ErrorCode } from '@/core/errors';
import type { RenderFacts } from '@/core/protocol/renders';
import type { RenderRequest } from '@/core/session/renderRequests';

/** A sound file that a render needs. */
export interface SoundFile {
  readonly id: string;
  readonly name: string;
  readonly bytes: Uint8Array;
}

/** To a thread that renders: one request. */
export interface ThreadRequest {
  readonly request: RenderRequest;
  readonly sounds: readonly SoundFile[];
}

export interface Rendered {
  readonly facts: RenderFacts;
  /** The sound file that came out; null for figures alone. */
  readonly bytes: Uint8Array | null;
}

export type ThreadAnswer =
  | { readonly kind: 'progress'; readonly done: number }
  | { readonly kind: 'done'; readonly rendered: Rendered }
  | {
      readonly kind: 'failed';
      readonly code: ErrorCode;
      readonly message: string;
      readonly kept: string | undefined;
      readonly next: string | undefined;
    };
