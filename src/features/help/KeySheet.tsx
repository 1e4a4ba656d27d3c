'use client';

import Modal from 'react-bootstrap/Modal';
import Table from 'react-bootstrap/Table';
import { KEYS_IN_PLACE, SHORTCUTS } from '../session/shortcuts';
import { useStudio } from '../session/StudioContext';

const everywhere = Object.values(SHORTCUTS).map((shortcut) => ({
  where: 'inTimeline' in shortcut ? 'In the timeline' : 'Everywhere',
  shown: shortcut.shown,
  what: shortcut.what,
}));
/** By where they work, those of everywhere first. */
const ROWS = [
  ...everywhere.filter(({ where }) => where === 'Everywhere'),
  ...everywhere.filter(({ where }) => where !== 'Everywhere'),
  ...KEYS_IN_PLACE,
];

/** Every key there is, by where it works. */
export function KeySheet() {
  const studio = useStudio();
  return (
    <Modal show size="lg" onHide={() => studio.set({ help: null })} aria-labelledby="keys-title">
      <Modal.Header closeButton>
        <Modal.Title id="keys-title">Keys</Modal.Title>
      </Modal.Header>
      <Modal.Body className="key-sheet" tabIndex={0}>
        <Table size="sm">
          <tbody>
            {ROWS.map(({ where, shown, what }, n) => (
              <tr key={`${where} ${shown} ${what}`}>
                {ROWS[n - 1]?.where === where ? <td /> : <th scope="row">{where}</th>}
                <td>
                  <kbd>{shown}</kbd>
                </td>
                <td>{what}</td>
              </tr>
            ))}
          </tbody>
        </Table>
      </Modal.Body>
    </Modal>
  );
}
