import { KinetikonError } from '../errors';
import { quoted } from '../text';
import { validateCollection } from './changes';
import { toVersion2 } from './migrations/toVersion2';
import { toVersion3 } from './migrations/toVersion3';
import { toVersion4 } from './migrations/toVersion4';
import { toVersion5 } from './migrations/toVersion5';
import { toVersion6 } from './migrations/toVersion6';
import { toVersion7 } from './migrations/toVersion7';
import { toVersion8 } from './migrations/toVersion8';
import { toVersion9 } from './migrations/toVersion9';
import { toVersion10 } from './migrations/toVersion10';
import { toVersion11 } from './migrations/toVersion11';
import { toVersion12 } from './migrations/toVersion12';
import { COLLECTIONS, DOCUMENT_VERSION, type SessionDocument } from './records/document';
import { validateRecord } from './records/validation';
import { validateReferences } from './references';

/** From each old version to the next. */
const MIGRATIONS: ReadonlyMap<unknown, (old: Record<string, unknown>) => Record<string, unknown>> = new Map([
  [1, toVersion2],
  [2, toVersion3],
  [3, toVersion4],
  [4, toVersion5],
  [5, toVersion6],
  [6, toVersion7],
  [7, toVersion8],
  [8, toVersion9],
  [9, toVersion10],
  [10, toVersion11],
  [11, toVersion12],
]);

const PARTS: ReadonlySet<string> = new Set(['version', 'session', 'main', ...COLLECTIONS]);

const refusal = (message: string) => new KinetikonError('session.invalid', message, { kept: 'Nothing was changed.' });

/**
 * Checks a whole document, brought up to today's version first: every record, and that every reference has its target.
 * @throws KinetikonError session.invalid, session.newer, session.loop and those of `validateRecord`
 */
export function validateDocument(value: unknown): SessionDocument {
  if (typeof value !== 'object' || value === null) throw refusal('A session must be an object.');
  let current = value as Record<string, unknown>;
  if (typeof current.version === 'number' && current.version > DOCUMENT_VERSION) {
    throw new KinetikonError(
      'session.newer',
      `This session was written by a newer version of Kinetikon (document ${current.version}).`,
      { kept: 'It is untouched.', next: 'Open it with that version.' },
    );
  }
  try {
    for (let migrate; (migrate = MIGRATIONS.get(current.version));) current = migrate(current);
  } catch (error) {
    throw new KinetikonError('session.invalid', 'This session of an older version is damaged.', {
      kept: 'It is untouched.',
      cause: error,
    });
  }
  if (current.version !== DOCUMENT_VERSION) {
    throw refusal(`A session has version ${DOCUMENT_VERSION}, not ${quoted(current.version)}.`);
  }
  const unknown = Object.keys(current).find((key) => !PARTS.has(key));
  if (unknown !== undefined) throw refusal(`A session has no part ${quoted(unknown)}.`);
  const document = current as unknown as SessionDocument;
  validateRecord('session', document.session);
  validateRecord('main', document.main);
  for (const collection of COLLECTIONS) validateCollection(document, collection);
  validateReferences(document);
  return document;
}
