'use client';

import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { effectById } from '@/core/effects/registry';
import { defaultValues } from '@/core/effects/spec';
import { channels, stripOfInsert } from '@/core/session/records/queries';
import { useStudio, useStudioState } from '../../session/StudioContext';

/** Whose notes an effect plays: those of the track it is on, its own, or another track's. */
export function NotesChoice({ insertId, context }: { readonly insertId: string; readonly context: string }) {
  const studio = useStudio();
  const { used, notesFrom, stripId, stripName } = useStudioState(({ document }) => {
    const { effect, notesFrom, values } = document.inserts[insertId]!;
    const spec = effectById(effect);
    const used = spec.playsNotes === true && (spec.usesNotes?.({ ...defaultValues(spec), ...values }) ?? true);
    const strip = stripOfInsert(document, insertId);
    return { used, notesFrom, stripId: strip?.id ?? '', stripName: strip?.name ?? '' };
  });
  const others = useStudioState(({ document }) => channels(document));
  const ownerId = notesFrom ?? stripId;
  const count = useStudioState(
    ({ document }) => Object.values(document.notes).filter((note) => note.ownerId === ownerId).length,
  );
  if (!used) return null;
  return (
    <div className="choice notes-choice">
      <span>Notes</span>
      <Form.Select
        aria-label={`${context} notes`}
        data-help="Whose notes it plays: those of the track it is on, notes of its own, or another track's."
        value={notesFrom ?? ''}
        onChange={(event) => {
          const from = event.target.value || null;
          studio.editor.perform({ type: 'insert.notes', id: insertId, from }, `Notes of ${context}`);
        }}
      >
        <option value="">of {stripName}</option>
        <option value={insertId}>its own</option>
        {others
          .filter(({ id }) => id !== stripId)
          .map(({ id, name }) => (
            <option key={id} value={id}>
              of {name}
            </option>
          ))}
      </Form.Select>
      <Button
        variant="line"
        aria-label={`Open the notes of ${context}`}
        onClick={() => studio.set({ view: 'timeline', notesFor: ownerId, noteIds: [] })}
      >
        {count === 0 ? 'Write notes' : `${count} notes`}
      </Button>
    </div>
  );
}
