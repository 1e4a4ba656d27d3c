import type { FileBytes } from '@/core/formats/fileBytes';
import type { RenderFacts } from '@/core/protocol/renders';
import type { SentError } from '@/core/protocol/sentError';
import type { RenderRequest } from '@/core/session/renderRequests';

/** A sound file that a render needs. */
export interface SoundFile extends FileBytes {
  readonly name: string;
}

/** Gives the file of a sound that a render needs. */
export type FileOf = (assetId: string) => Promise<SoundFile>;

/** To a thread that renders: one request, or an answer to what it asked. */
export type ThreadRequest =
  | { readonly kind: 'render'; readonly request: RenderRequest; readonly output: string }
  | { readonly kind: 'file'; readonly ask: number; readonly name: string; readonly size: number }
  | { readonly kind: 'bytes'; readonly ask: number; readonly bytes: Uint8Array }
  /** What was asked for could not be had. */
  | { readonly kind: 'lost'; readonly ask: number; readonly error: SentError };

export interface Rendered {
  readonly facts: RenderFacts;
  /** Bytes of the sound file that came out; null for figures alone. */
  readonly bytes: number | null;
}

export type ThreadAnswer =
  | { readonly kind: 'progress'; readonly done: number }
  /** Asks for the file of a sound that the thread has not decoded yet, or for bytes of one. */
  | { readonly kind: 'needs'; readonly ask: number; readonly assetId: string }
  | {
      readonly kind: 'reads';
      readonly ask: number;
      readonly assetId: string;
      readonly from: number;
      readonly to: number;
    }
  | { readonly kind: 'done'; readonly rendered: Rendered }
  | { readonly kind: 'failed'; readonly error: SentError };
