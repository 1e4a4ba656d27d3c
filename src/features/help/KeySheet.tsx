'use client';

import Modal from 'react-bootstrap/Modal';
import { KEYS_IN_PLACE, SHORTCUTS } from '../session/shortcuts';
import { useStudio } from '../session/StudioContext';
import { DataTable, type DataShape } from '../ui/DataTable';

interface KeyRow {
  readonly where: string;
  readonly shown: string;
  readonly what: string;
}

const everywhere = Object.values(SHORTCUTS).map((shortcut): KeyRow => ({
  where: 'inTimeline' in shortcut ? 'In the timeline' : 'Everywhere',
  shown: shortcut.shown,
  what: shortcut.what,
}));
/** By where they work, those of everywhere first. */
const ROWS: readonly KeyRow[] = [
  ...everywhere.filter(({ where }) => where === 'Everywhere'),
  ...everywhere.filter(({ where }) => where !== 'Everywhere'),
  ...KEYS_IN_PLACE,
];
const SHAPE: DataShape<KeyRow> = {
  idOf: ({ where, shown, what }) => `${where} ${shown} ${what}`,
  columns: [
    { id: 'keys', head: 'Keys', value: ({ shown }) => shown, cell: ({ shown }) => <kbd>{shown}</kbd> },
    { id: 'what', head: 'What they do', value: ({ what }) => what },
    { id: 'where', head: 'Where', value: ({ where }) => where },
  ],
};

/** Every key there is, and where it works. */
export function KeySheet() {
  const studio = useStudio();
  return (
    <Modal show size="lg" onHide={() => studio.set({ help: null })} aria-labelledby="keys-title">
      <Modal.Header closeButton>
        <Modal.Title id="keys-title">Keys</Modal.Title>
      </Modal.Header>
      <Modal.Body className="key-sheet" tabIndex={0}>
        <DataTable label="Keys" shape={SHAPE} rows={ROWS} />
      </Modal.Body>
    </Modal>
  );
}
