import { each, eachInsert, type Old } from './each';

/** Version 8 has notes, effects that play them, and modulators moved by hand. Nothing of version 7 sounds otherwise. */
export const toVersion8 = (old: Old): Old => ({
  ...old,
  ...eachInsert(old, (insert) => ({ ...insert, notesFrom: null })),
  version: 8,
  notes: {},
  modulators: each(old.modulators, (one) => ({ ...one, controller: null, handPart: 0 })),
});
