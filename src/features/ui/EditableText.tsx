'use client';

import { useState } from 'react';
import Form from 'react-bootstrap/Form';

interface Props {
  readonly label: string;
  readonly text: string;
  readonly width: number;
  readonly onTyped: (text: string) => void;
}

/** A figure that can be typed over: Enter takes it, Escape leaves it. */
export function EditableText({ label, text, width, onTyped }: Props) {
  const [draft, setDraft] = useState<string | null>(null);
  return (
    <Form.Control
      className="typed"
      style={{ width }}
      aria-label={label}
      value={draft ?? text}
      onFocus={(event) => event.target.select()}
      onChange={(event) => setDraft(event.target.value)}
      onBlur={() => {
        if (draft !== null && draft.trim() !== '' && draft !== text) onTyped(draft.trim());
        setDraft(null);
      }}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === 'Enter') event.currentTarget.blur();
        if (event.key !== 'Escape') return;
        setDraft(null);
      }}
    />
  );
}
