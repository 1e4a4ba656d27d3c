import { enablePatches, produce, produceWithPatches } from 'immer';
import { applyChanges, byPoints, validateTouched, type Change } from './changes';
import { clipHandlers, type ClipCommands } from './commands/clipCommands';
import { comparisonHandlers, type ComparisonCommands } from './commands/comparisonCommands';
import type { CommandOf, Handlers } from './commands/handlers';
import { insertHandlers, type InsertCommands } from './commands/insertCommands';
import { laneHandlers, type LaneCommands } from './commands/laneCommands';
import { printHandlers, type PrintCommands } from './commands/printCommands';
import { sessionHandlers, type SessionCommands } from './commands/sessionCommands';
import { stripHandlers, type StripCommands } from './commands/stripCommands';
import { placeLinked } from './prints';
import type { SessionDocument } from './records/document';

export type { NoteChange } from './commands/laneCommands';

enablePatches();

type Payloads = SessionCommands &
  StripCommands &
  ClipCommands &
  InsertCommands &
  LaneCommands &
  ComparisonCommands &
  PrintCommands;

/** Every change that can be made to a document; `all` makes several as one step. */
export type Command = CommandOf<Payloads> | { type: 'all'; commands: readonly Command[] };

const HANDLERS: Handlers<Payloads> = {
  ...sessionHandlers,
  ...stripHandlers,
  ...clipHandlers,
  ...insertHandlers,
  ...laneHandlers,
  ...comparisonHandlers,
  ...printHandlers,
};

/** One undoable change: its label, and the changes that redo and undo it. */
export interface Step {
  readonly label: string;
  readonly forward: readonly Change[];
  readonly inverse: readonly Change[];
}

/**
 * Applies a command. The given document is not changed; the new one shares unchanged records with it.
 * @throws KinetikonError when the command names a record that does not exist or leads to an invalid one
 */
export function applyCommand(
  document: SessionDocument,
  command: Command,
  label: string,
): { document: SessionDocument; step: Step } {
  const [next, forward, inverse] = produceWithPatches(document, (draft) => {
    execute(draft, command);
    placeLinked(draft);
  });
  validateTouched(next, forward);
  return {
    document: next,
    step: { label, forward: byPoints(document, next, forward), inverse: byPoints(next, document, inverse) },
  };
}

/**
 * Applies the changes of a step, forward or inverse.
 * @throws KinetikonError when the result is not a valid document, as of steps that were altered from outside
 */
export function applyStep(document: SessionDocument, changes: readonly Change[]): SessionDocument {
  // Prints rendered since the step may have another length, so linked clips are placed anew.
  const next = produce(applyChanges(document, changes), placeLinked);
  validateTouched(next, changes);
  return next;
}

function execute(draft: SessionDocument, command: Command): void {
  if (command.type === 'all') {
    for (const one of command.commands) execute(draft, one);
    return;
  }
  const handle = HANDLERS[command.type] as (draft: SessionDocument, payload: object) => void;
  handle(draft, command);
}
