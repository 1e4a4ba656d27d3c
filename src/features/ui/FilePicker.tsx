'use client';

import type { RefObject } from 'react';
import { Form } from 'react-bootstrap';

/** Asks for files when the button beside it clicks it. One that was taken before may be taken again. */
export function FilePicker(props: {
  readonly ref: RefObject<HTMLInputElement | null>;
  readonly label: string;
  /** Name endings and media types, by commas. */
  readonly accept: string;
  readonly multiple?: boolean;
  /** With one file at least. */
  readonly onPick: (files: readonly File[]) => void;
}) {
  const { ref, label, accept, multiple = false, onPick } = props;
  return (
    <Form.Control
      ref={ref}
      type="file"
      className="visually-hidden"
      tabIndex={-1}
      aria-label={label}
      accept={accept}
      multiple={multiple}
      onChange={(event) => {
        const input = event.target as HTMLInputElement;
        const files = [...(input.files ?? [])];
        input.value = '';
        if (files.length > 0) onPick(files);
      }}
    />
  );
}
