'use client';

import { useEffect, useRef, useState } from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import Form from 'react-bootstrap/Form';
import ListGroup from 'react-bootstrap/ListGroup';
import Modal from 'react-bootstrap/Modal';
import { useStudio } from '../session/StudioContext';
import { typeAhead } from '../ui/typeAhead';
import { paletteEntries, search, type PaletteEntry } from './paletteEntries';

/** Height of an entry in pixels. */
const HEIGHT = 34;
const KINDS = { command: 'command', place: 'go to', effect: 'effect', recipe: 'recipe' } as const;

/** A search of everything that can be done or gone to. */
export function CommandPalette() {
  const studio = useStudio();
  const [text, setText] = useState('');
  const field = useRef<HTMLInputElement>(null);
  const [at, setAt] = useState(0);
  const [finds] = useState(() => paletteEntries(studio));
  const list = useRef<HTMLDivElement>(null);
  const found = search(finds, text);
  const close = () => studio.set({ help: null });
  const run = (find: PaletteEntry | undefined) => {
    if (!find) return;
    close();
    find.run();
  };
  const rows = useVirtualizer({
    count: found.length,
    getScrollElement: () => list.current,
    estimateSize: () => HEIGHT,
    overscan: 6,
    initialRect: { width: 600, height: 600 },
  });
  useEffect(() => rows.scrollToIndex(at), [rows, at, text]);
  const takeTyped = () => setText((so) => so + typeAhead.end());
  return (
    <Modal
      show
      onHide={close}
      onEntered={() => field.current?.focus()}
      aria-label="Find a command, a place or an effect"
      className="find-sheet"
    >
      <Form.Control
        ref={field}
        autoFocus
        onFocus={takeTyped}
        placeholder="find a command, a place or an effect"
        aria-label="Find"
        role="combobox"
        aria-expanded
        aria-controls="finds"
        aria-activedescendant={found.length > 0 ? `find-${at}` : undefined}
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          setAt(0);
        }}
        onKeyDown={(event) => {
          const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
          if (event.key === 'Enter') {
            // It would press what has the focus once this is closed.
            event.preventDefault();
            run(found[at]);
          }
          if (by === undefined || found.length === 0) return;
          setAt((at + by + found.length) % found.length);
          event.preventDefault();
        }}
      />
      <ListGroup ref={list} id="finds" role="listbox" aria-label="Found" variant="flush">
        <div role="presentation" style={{ height: rows.getTotalSize() }}>
          {rows.getVirtualItems().map(({ index, start }) => {
            const find = found[index]!;
            return (
              <ListGroup.Item
                key={`${find.kind} ${find.name} ${index}`}
                id={`find-${index}`}
                role="option"
                action
                tabIndex={-1}
                active={index === at}
                aria-selected={index === at}
                aria-setsize={found.length}
                aria-posinset={index + 1}
                style={{ height: HEIGHT, transform: `translateY(${start}px)` }}
                onClick={() => run(find)}
              >
                <b>{find.name}</b>
                <span title={find.about}>{find.about}</span>
                <small>{KINDS[find.kind]}</small>
              </ListGroup.Item>
            );
          })}
        </div>
      </ListGroup>
      {found.length === 0 && <p className="empty-hint">Nothing of that name.</p>}
    </Modal>
  );
}
