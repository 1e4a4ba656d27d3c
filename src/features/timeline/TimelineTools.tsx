'use client';

import { FilePlus2, ZoomIn, ZoomOut } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import Dropdown from 'react-bootstrap/Dropdown';
import Form from 'react-bootstrap/Form';
import { MAIN_ID } from '@/core/session/records/strips';
import {
  clipActs,
  copyChosen,
  cutChosen,
  deleteClips,
  duplicateClips,
  pasteClips,
  splitClips,
} from '../session/clipActs';
import { useShortcut } from '../session/shortcuts';
import type { RowSize, Snap } from '../session/state';
import type { Studio } from '../session/studio';
import { useStudio, useStudioState } from '../session/StudioContext';
import { ActItems } from '../ui/ActItems';
import { addSection, deleteLoopTime, insertBarAtPlayhead, insertLoopTime } from '../session/timeWork';

const ROW_SIZES = { fit: 'to fit', low: 'low', tall: 'tall' } as const;
const ZOOM_STEP = 1.5;

const SNAPS: readonly (readonly [string, Snap, string])[] = [
  ['bar', 'bar', 'bar'],
  ['1', 1, '1/4 note'],
  ['0.5', 0.5, '1/8 note'],
  ['0.25', 0.25, '1/16 note'],
  ['edges', 'edges', 'edges, marks'],
  ['0', 0, 'off'],
];

interface Props {
  readonly onBringIn: () => void;
  readonly onZoom: (factor: number) => void;
  readonly onFit: () => void;
}

/** Tools for selected clips, snap, row height and zoom. */
export function TimelineTools({ onBringIn, onZoom, onFit }: Props) {
  const studio = useStudio();
  const { clipIds, snap, rowSize, notesFor, stripId } = useStudioState((state) => ({
    clipIds: state.clipIds,
    snap: state.snap,
    rowSize: state.rowSize,
    notesFor: state.notesFor,
    stripId: state.stripId,
  }));
  const act = (work: (studio: Studio) => unknown) => () => void work(studio);
  useShortcut('remove', act(deleteClips));
  useShortcut('duplicate', act(duplicateClips));
  useShortcut('split', act(splitClips));
  useShortcut('copy', act(copyChosen));
  useShortcut('cut', act(cutChosen));
  useShortcut('paste', act(pasteClips));
  return (
    <div className="timeline-tools" role="toolbar" aria-label="Timeline tools">
      <Button variant="line" onClick={onBringIn}>
        <FilePlus2 size={13} aria-hidden="true" /> Bring in sound
      </Button>
      <span className="tool-gap" />
      <Button
        variant="plain"
        disabled={clipIds.length === 0}
        title="Split at the playhead: /"
        onClick={act(splitClips)}
      >
        Split
      </Button>
      <Button variant="plain" disabled={clipIds.length === 0} title="Delete: Delete" onClick={act(deleteClips)}>
        Delete
      </Button>
      <ClipMenu />
      <TimeMenu />
      <Button
        variant="plain"
        aria-pressed={notesFor !== null}
        disabled={stripId === MAIN_ID}
        title="Notes of the chosen track, on the lines of the key"
        onClick={() => studio.set({ notesFor: notesFor === null ? stripId : null, noteIds: [] })}
      >
        Notes
      </Button>
      <span className="tool-gap" />
      <label className="tool-choice">
        snap
        <Form.Select
          aria-label="Snap"
          value={String(snap)}
          onChange={(event) => studio.set({ snap: SNAPS.find(([id]) => id === event.target.value)![1] })}
        >
          {SNAPS.map(([id, , name]) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </Form.Select>
      </label>
      <label className="tool-choice">
        rows
        <Form.Select
          aria-label="Height of rows"
          value={rowSize}
          onChange={(event) => studio.set({ rowSize: event.target.value as RowSize })}
        >
          {Object.entries(ROW_SIZES).map(([id, name]) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </Form.Select>
      </label>
      <Button variant="icon" aria-label="Zoom out" title="Zoom out: -" onClick={() => onZoom(1 / ZOOM_STEP)}>
        <ZoomOut size={15} aria-hidden="true" />
      </Button>
      <Button
        variant="icon"
        aria-label="Zoom in"
        title="Zoom in: + or Ctrl and wheel"
        onClick={() => onZoom(ZOOM_STEP)}
      >
        <ZoomIn size={15} aria-hidden="true" />
      </Button>
      <Button variant="plain" title="Show everything" onClick={onFit}>
        Fit
      </Button>
    </div>
  );
}

/** All that can be done with the chosen clips; pasting needs none. */
function ClipMenu() {
  const studio = useStudio();
  const { count } = useStudioState(({ clipIds }) => ({ count: clipIds.length }));
  return (
    <Dropdown>
      <Dropdown.Toggle variant="plain" bsPrefix="preset-toggle" disabled={count === 0}>
        Clips
      </Dropdown.Toggle>
      <Dropdown.Menu>
        <ActItems acts={clipActs(studio)} />
      </Dropdown.Menu>
    </Dropdown>
  );
}

/** Sections, and time that is put in or taken out. */
function TimeMenu() {
  const studio = useStudio();
  const loopOn = useStudioState(({ document }) => document.session.loopOn);
  return (
    <Dropdown>
      <Dropdown.Toggle variant="plain" bsPrefix="preset-toggle">
        Time
      </Dropdown.Toggle>
      <Dropdown.Menu>
        <Dropdown.Item as="button" type="button" onClick={() => addSection(studio)}>
          Add a section at the playhead’s bar
        </Dropdown.Item>
        <Dropdown.Item as="button" type="button" onClick={() => insertBarAtPlayhead(studio)}>
          Insert a bar at the playhead
        </Dropdown.Item>
        <Dropdown.Item as="button" type="button" disabled={!loopOn} onClick={() => insertLoopTime(studio)}>
          Insert the loop’s length at its start
        </Dropdown.Item>
        <Dropdown.Item as="button" type="button" disabled={!loopOn} onClick={() => deleteLoopTime(studio)}>
          Delete the time of the loop
        </Dropdown.Item>
      </Dropdown.Menu>
    </Dropdown>
  );
}
