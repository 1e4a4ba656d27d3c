import type { ErrorCode } from '@/core/errors';
import type { RenderFacts } from '@/core/protocol/renders';
import type { RenderRequest } from '@/core/session/renderRequests';

/** A sound file that a render needs. */
export interface SoundFile {
  readonly id: string;
  readonly name: string;
  readonly bytes: Uint8Array;
}

/** Gives the file of a sound that a render needs. */
export type FileOf = (assetId: string) => Promise<SoundFile>;

/** To a thread that renders: one request, or a file that it asked for. */
export type ThreadRequest =
  { readonly kind: 'render'; readonly request: RenderRequest } | { readonly kind: 'file'; readonly file: SoundFile };

export interface Rendered {
  readonly facts: RenderFacts;
  /** The sound file that came out; null for figures alone. */
  readonly bytes: Uint8Array | null;
}

export type ThreadAnswer =
  | { readonly kind: 'progress'; readonly done: number }
  /** Asks for the file of a sound that the thread has not decoded yet. */
  | { readonly kind: 'needs'; readonly assetId: string }
  | { readonly kind: 'done'; readonly rendered: Rendered }
  | {
      readonly kind: 'failed';
      readonly code: ErrorCode;
      readonly message: string;
      readonly kept: string | undefined;
      readonly next: string | undefined;
    };
