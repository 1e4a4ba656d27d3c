'use client';

import { memo } from 'react';
import Button from 'react-bootstrap/Button';
import { keyName } from '@/core/effects/pitchNames';
import { degreeOf } from '@/core/effects/scaleKeys';
import type { Note } from '@/core/session/records/lanes';
import type { SessionRecord } from '@/core/session/records/session';
import { scaleOf } from '@/core/session/scales';
import { formatPosition } from '../ui/music';
import { ROW, SHORTEST, WEIGHTS, yOfKey } from './noteGeometry';

interface MarkProps {
  readonly note: Note;
  readonly pixelsPerBeat: number;
  readonly chosen: boolean;
}

/** A note on its line. Whoever holds it finds it by its id. */
export const NoteMark = memo(function NoteMark({
  note,
  session,
  pixelsPerBeat,
  chosen,
  tabbed,
}: MarkProps & { readonly session: SessionRecord; readonly tabbed: boolean }) {
  const at = formatPosition(note.startBeat, session);
  const degree = degreeOf(note.key, scaleOf(session));
  const place = degree < 0 ? 'beside the key' : `degree ${degree + 1}`;
  return (
    <Button
      bsPrefix="note"
      data-note={note.id}
      tabIndex={tabbed ? 0 : -1}
      aria-label={`${keyName(note.key)}, ${place}, bar ${at.bar} beat ${at.beat}, ${Number(note.lengthBeats.toFixed(2))} beats, velocity ${note.velocity}`}
      aria-pressed={chosen}
      className={degree < 0 ? 'note-astray' : undefined}
      style={{
        left: note.startBeat * pixelsPerBeat,
        top: yOfKey(note.key) + 1,
        width: Math.max(SHORTEST, note.lengthBeats * pixelsPerBeat - 1),
        height: ROW - 2,
        opacity: 0.45 + (0.55 * note.velocity) / 127,
      }}
    />
  );
});

/** Its velocity, as a stalk. */
export const NoteWeight = memo(function NoteWeight({ note, pixelsPerBeat, chosen }: MarkProps) {
  return (
    <i
      data-note={note.id}
      className={chosen ? 'note-weight note-weight-chosen' : 'note-weight'}
      title={`${keyName(note.key)}: ${note.velocity}. Drag up or down`}
      style={{ left: note.startBeat * pixelsPerBeat, height: (WEIGHTS - 6) * (note.velocity / 127) }}
    />
  );
});
