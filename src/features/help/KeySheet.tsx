'use client';

import Modal from 'react-bootstrap/Modal';
import Table from 'react-bootstrap/Table';
import { KEYS_IN_PLACE, SHORTCUTS } from '../session/shortcuts';
import { useStudio } from '../session/StudioContext';

const EVERYWHERE = Object.values(SHORTCUTS).map((shortcut) => ({
  where: 'inTimeline' in shortcut ? 'In the timeline' : 'Everywhere',
  shown: shortcut.shown,
  what: shortcut.what,
}));

/** Every key there is, by where it works. */
export function KeySheet() {
  const studio = useStudio();
  const rows = [...EVERYWHERE, ...KEYS_IN_PLACE].sort((a, b) => ORDER.indexOf(a.where) - ORDER.indexOf(b.where));
  return (
    <Modal show size="lg" onHide={() => studio.set({ help: null })} aria-labelledby="keys-title">
      <Modal.Header closeButton>
        <Modal.Title id="keys-title">Keys</Modal.Title>
      </Modal.Header>
      <Modal.Body className="key-sheet" tabIndex={0}>
        <Table size="sm">
          <tbody>
            {rows.map(({ where, shown, what }, n) => (
              <tr key={`${where} ${shown} ${what}`}>
                <th scope="row">{rows[n - 1]?.where === where ? '' : where}</th>
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

const ORDER = [
  'Everywhere',
  'In the timeline',
  ...new Set(KEYS_IN_PLACE.map(({ where }) => where as string)),
] as readonly string[];
