'use client';

import type { CSSProperties } from 'react';
import Form from 'react-bootstrap/Form';
import { NAME_LENGTH } from '@/core/session/nameLength';
import { cutText } from '@/core/text';

interface Props {
  readonly label: string;
  readonly name: string;
  readonly className: string;
  readonly style?: CSSProperties;
  /** A new name was written. */
  readonly onRename: (name: string) => void;
  /** Writing is over, whether or not it came to a new name. */
  readonly onEnd: () => void;
}

/** A name being written anew in its own place: Enter takes it, Escape leaves it. */
export function RenameInput({ label, name, className, style, onRename, onEnd }: Props) {
  return (
    <Form.Control
      className={className}
      style={style}
      autoFocus
      aria-label={label}
      defaultValue={name}
      onFocus={(event) => event.target.select()}
      onBlur={(event) => {
        const written = cutText(event.target.value.trim(), NAME_LENGTH);
        onEnd();
        if (written !== '' && written !== name) onRename(written);
      }}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === 'Enter') event.currentTarget.blur();
        if (event.key === 'Escape') onEnd();
      }}
    />
  );
}
