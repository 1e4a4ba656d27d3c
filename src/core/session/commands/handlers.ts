import type { SessionDocument } from '../records/document';

/** Commands of one group: by type, what each carries. Ids of new records are chosen by the caller. */
export type CommandOf<Payloads> = { [Type in keyof Payloads]: { type: Type } & Payloads[Type] }[keyof Payloads];

/**
 * By type of command, the function that changes a draft of the document.
 * @throws KinetikonError session.command when the command names a record that does not exist
 */
export type Handlers<Payloads> = {
  readonly [Type in keyof Payloads]: (draft: SessionDocument, payload: Payloads[Type]) => void;
};
