'use client';

import { useEffect, useRef, useState } from 'react';
import Form from 'react-bootstrap/Form';
import ListGroup from 'react-bootstrap/ListGroup';
import Modal from 'react-bootstrap/Modal';
import { useStudio } from '../session/StudioContext';
import { findsOf, search, type Find } from './finds';

const MOST_SHOWN = 60;
const KINDS = { command: 'command', place: 'go to', effect: 'effect', recipe: 'recipe' } as const;

/** A search of everything that can be done or gone to. */
export function FindSheet() {
  const studio = useStudio();
  const [text, setText] = useState('');
  const [at, setAt] = useState(0);
  const [finds] = useState(() => findsOf(studio));
  const list = useRef<HTMLDivElement>(null);
  const found = search(finds, text).slice(0, MOST_SHOWN);
  const close = () => studio.set({ help: null });
  const run = (find: Find | undefined) => {
    if (!find) return;
    close();
    find.run();
  };
  useEffect(() => {
    list.current?.querySelector('.active')?.scrollIntoView({ block: 'nearest' });
  }, [at, text]);
  return (
    <Modal show onHide={close} aria-label="Find a command, a place or an effect" className="find-sheet">
      <Form.Control
        autoFocus
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
        {found.map((find, n) => (
          <ListGroup.Item
            key={`${find.kind} ${find.name} ${n}`}
            id={`find-${n}`}
            role="option"
            action
            tabIndex={-1}
            active={n === at}
            aria-selected={n === at}
            onClick={() => run(find)}
          >
            <b>{find.name}</b>
            <span title={find.about}>{find.about}</span>
            <small>{KINDS[find.kind]}</small>
          </ListGroup.Item>
        ))}
      </ListGroup>
      {found.length === 0 && <p className="empty-hint">Nothing of that name.</p>}
    </Modal>
  );
}
