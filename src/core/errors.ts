/** Every coded error a user can meet; programmers' mistakes throw plain `Error`s instead. */
export type ErrorCode =
  | 'parameter.unknown'
  | 'parameter.range'
  | 'parameter.text'
  | 'impulse.bad'
  | 'effect.unknown'
  | 'file.notWav'
  | 'file.broken'
  | 'file.unsupported'
  | 'file.empty'
  | 'file.tooLarge'
  | 'file.missing'
  | 'file.unwritable'
  | 'session.invalid'
  | 'session.newer'
  | 'session.missing'
  | 'session.conflict'
  | 'session.diverged'
  | 'session.recovered'
  | 'session.command'
  | 'session.loop'
  | 'preset.invalid'
  | 'preset.newer'
  | 'preset.missing'
  | 'asset.missing'
  | 'asset.damaged'
  | 'upload.lost'
  | 'asset.mismatch'
  | 'asset.late'
  | 'asset.long'
  | 'request.invalid'
  | 'request.tooLarge'
  | 'request.unknown'
  | 'request.origin'
  | 'render.failed'
  | 'render.missing'
  | 'print.loud'
  | 'print.impossible'
  | 'storage.full'
  | 'database.locked'
  | 'database.failed'
  | 'data.differs'
  | 'engine.stopped'
  | 'engine.recovered'
  | 'engine.fault'
  | 'engine.unavailable'
  | 'work.cancelled'
  | 'usage';

interface More {
  readonly kept?: string | undefined;
  readonly next?: string | undefined;
  readonly cause?: unknown;
}

/** A failure that the user reads: what happened, what was kept, and what to do next. */
export class KinetikonError extends Error {
  override readonly name = 'KinetikonError';
  readonly code: ErrorCode;
  /** The part that is unchanged, in a sentence. */
  readonly kept: string | undefined;
  /** The next step for the user, in a sentence. */
  readonly next: string | undefined;

  constructor(code: ErrorCode, message: string, more: More = {}) {
    super(message, more.cause === undefined ? undefined : { cause: more.cause });
    this.code = code;
    this.kept = more.kept;
    this.next = more.next;
  }
}

/** The message of anything thrown. */
export function messageOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}

/** The error of work that was cancelled: the user knows, so that nothing is reported. */
export function cancelled(kept = 'Nothing was changed.'): KinetikonError {
  return new KinetikonError('work.cancelled', 'Cancelled.', { kept });
}

export function isCancelled(error: unknown): boolean {
  return error instanceof KinetikonError && error.code === 'work.cancelled';
}
