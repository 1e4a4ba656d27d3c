import type { ErrorCode } from '@/core/errors';
import type { SoundFacts } from '@/core/formats/soundScanner';

/** From the server to the thread that reads sound files: one part after the other, each answered. */
export type CheckRequest = { readonly part: Uint8Array } | { readonly end: true };

export type CheckAnswer =
  | { readonly kind: 'taken' }
  | { readonly kind: 'done'; readonly facts: SoundFacts }
  | {
      readonly kind: 'refused';
      readonly code: ErrorCode;
      readonly message: string;
      readonly kept: string | undefined;
      readonly next: string | undefined;
    };
