'use client';

import { useState } from 'react';
import { MousePointer2, Pencil } from 'lucide-react';
import Dropdown from 'react-bootstrap/Dropdown';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { messageOf } from '@/core/errors';
import { NOTE_VALUES, noteValueBeats } from '@/core/effects/noteValues';
import { parseValue } from '@/core/effects/parameterText';
import type { Command } from '@/core/session/commands';
import { LANE_SHAPES, shapePoints, replaceWithin, type LaneShape } from '@/core/session/laneEdits';
import { heightOf, laneOrigin, laneName, laneParameter, stripIdOfOwner } from '@/core/session/lanes';
import { beatsPerBar, stripOf, timingOf } from '@/core/session/records/queries';
import type { Lane } from '@/core/session/records/lanes';
import { chosenLanes } from '../session/selection';
import { useStudio, useStudioState } from '../session/StudioContext';
import { EditableText } from '../ui/EditableText';
import { PointFields, PointTools } from './PointTools';

const SHAPE_WORDS: Record<LaneShape, string> = {
  sine: 'Sine',
  triangle: 'Triangle',
  rampUp: 'Ramp up',
  rampDown: 'Ramp down',
  square: 'Square',
  randomSteps: 'Random steps',
};

/**
 * Tools for the lane that is open: figures of the chosen points, what can be done to them, shapes, mirror. Shapes,
 * suspending and removing go for all lanes that are chosen.
 */
export function LaneBar({ lane }: { lane: Lane }) {
  const studio = useStudio();
  const { document, indices, tool } = useStudioState((state) => ({
    document: state.document,
    indices: state.pointIndices,
    tool: state.laneTool,
  }));
  const laneIds = useStudioState(chosenLanes);
  const [error, setError] = useState<string | null>(null);
  const parameter = laneParameter(document, lane.ownerId, lane.parameter)!;
  const label = laneName(document, lane);
  const chosen = new Set(indices);
  const first = lane.points[Math.min(...indices)];
  const others = laneIds.length - 1;
  const whole = others === 0 ? label : `${label}, and of ${others} more`;
  const forAll = (command: (id: string) => Command, what: string) =>
    studio.editor.perform({ type: 'all', commands: laneIds.map(command) }, `${what} ${whole}`);
  const { loopStartBeat, loopEndBeat } = document.session;
  return (
    <div className="lane-bar" aria-label={`Tools for the lane of ${label}`} role="group">
      <b title={label}>
        {stripOf(document, stripIdOfOwner(document, lane.ownerId) ?? '')?.name}, {label}
        {others > 0 && <small> and {others === 1 ? 'one other lane' : `${others} other lanes`}</small>}
      </b>
      <Button
        variant="icon"
        aria-pressed={tool === 'points'}
        aria-label="Work on points"
        title="Points: drag them, drag a box to choose, double-click adds, Alt-drag bends"
        onClick={() => studio.set({ laneTool: 'points' })}
      >
        <MousePointer2 size={13} aria-hidden="true" />
      </Button>
      <Button
        variant="icon"
        aria-pressed={tool === 'draw'}
        aria-label="Draw freehand"
        title="Draw freehand"
        onClick={() => studio.set({ laneTool: 'draw' })}
      >
        <Pencil size={13} aria-hidden="true" />
      </Button>
      {lane.mirrorOf === null && first && <PointFields lane={lane} first={first} onError={setError} />}
      {lane.mirrorOf === null && first && <PointTools lane={lane} first={first} onError={setError} />}
      <span className="tool-gap" />
      {parameter.kind === 'number' && lane.mirrorOf === null && <ShapeMenu lane={lane} laneIds={laneIds} />}
      {others === 0 && <MirrorChoice lane={lane} />}
      <Button
        variant="plain"
        title={lane.on ? 'The lane moves the control' : 'The control ignores its lane'}
        onClick={() =>
          forAll(
            (id) => ({ type: 'lane.set', id, values: { on: !lane.on } }),
            lane.on ? 'Suspend the lane of' : 'Resume the lane of',
          )
        }
      >
        {`${lane.on ? 'Suspend' : 'Resume'} ${others === 0 ? 'lane' : 'lanes'}`}
      </Button>
      <Button variant="plain" onClick={() => forAll((id) => ({ type: 'lane.remove', id }), 'Remove the lane of')}>
        Remove
      </Button>
      {error && (
        <span role="alert" className="ruler-error">
          {error}
        </span>
      )}
      {chosen.size === 0 && lane.mirrorOf === null && (
        <span className="lane-hint">
          {lane.points.length < 2
            ? 'Double-click adds a point.'
            : `Shapes fill bars ${Math.floor(loopStartBeat / beatsPerBar(document.session)) + 1} to ${Math.ceil(loopEndBeat / beatsPerBar(document.session))}, the loop.`}
        </span>
      )}
    </div>
  );
}

/** Fills the loop with a shape, one cycle a note value, between two values; in all lanes that are chosen. */
function ShapeMenu({ lane, laneIds }: { lane: Lane; laneIds: readonly string[] }) {
  const studio = useStudio();
  const document = useStudioState(({ document }) => document);
  const [note, setNote] = useState('1bar');
  const [low, setLow] = useState('');
  const [high, setHigh] = useState('');
  const [error, setError] = useState<string | null>(null);
  const timing = timingOf(document);
  const parameter = laneParameter(document, lane.ownerId, lane.parameter)!;
  if (parameter.kind !== 'number') return null;
  const shaped = (shape: LaneShape, { id, ownerId, parameter: name, points, mirrorOf }: Lane): Command[] => {
    const parameter = laneParameter(document, ownerId, name)!;
    if (parameter.kind !== 'number' || mirrorOf !== null) return [];
    const from = low.trim() === '' ? 0.25 : heightOf(parameter, parseValue(parameter, low), timing);
    const to = high.trim() === '' ? 0.75 : heightOf(parameter, parseValue(parameter, high), timing);
    const origin = laneOrigin(document, document.lanes[id]!);
    const { loopStartBeat, loopEndBeat } = document.session;
    const range = { from: Math.max(0, loopStartBeat - origin), to: Math.max(0, loopEndBeat - origin) };
    const made = shapePoints(shape, range, noteValueBeats(note, timing)!, from, to, parameter, points.length + 1);
    return [{ type: 'lane.set', id, values: { points: replaceWithin(points, made, range) } }];
  };
  const fill = (shape: LaneShape) => {
    try {
      const commands = laneIds.flatMap((id) => shaped(shape, document.lanes[id]!));
      const names = laneIds.length === 1 ? parameter.name : `${commands.length} lanes`;
      studio.editor.perform({ type: 'all', commands }, `${SHAPE_WORDS[shape]} for ${names}`);
      setError(null);
    } catch (caught) {
      setError(messageOf(caught));
    }
  };
  return (
    <Dropdown align="end" drop="up" autoClose="outside">
      <Dropdown.Toggle variant="plain" bsPrefix="preset-toggle">
        Shapes
      </Dropdown.Toggle>
      <Dropdown.Menu
        as="div"
        className="shape-menu"
        onKeyDown={(event) => event.key !== 'Escape' && event.stopPropagation()}
      >
        <p>Fills the loop.</p>
        <label className="lane-field">
          <span>a cycle every</span>
          <Form.Select aria-label="Length of a cycle" value={note} onChange={(event) => setNote(event.target.value)}>
            {NOTE_VALUES.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </Form.Select>
        </label>
        <label className="lane-field">
          <span>from</span>
          <Form.Control
            aria-label="Lowest value"
            placeholder="a quarter up"
            value={low}
            onChange={(event) => setLow(event.target.value)}
          />
        </label>
        <label className="lane-field">
          <span>to</span>
          <Form.Control
            aria-label="Highest value"
            placeholder="three quarters"
            value={high}
            onChange={(event) => setHigh(event.target.value)}
          />
        </label>
        {error && (
          <p role="alert" className="ruler-error">
            {error}
          </p>
        )}
        <div className="shape-buttons">
          {LANE_SHAPES.map((shape) => (
            <Button key={shape} variant="line" onClick={() => fill(shape)}>
              {SHAPE_WORDS[shape]}
            </Button>
          ))}
        </div>
      </Dropdown.Menu>
    </Dropdown>
  );
}

/** Lets the lane move opposite to another one. */
function MirrorChoice({ lane }: { lane: Lane }) {
  const studio = useStudio();
  const document = useStudioState(({ document }) => document);
  const offered = Object.values(document.lanes).filter((one) => one.id !== lane.id && one.mirrorOf === null);
  const mirrored = Object.values(document.lanes).some((one) => one.mirrorOf === lane.id);
  if (offered.length === 0 || mirrored) return null;
  const set = (values: Partial<Lane>, what: string) =>
    studio.editor.perform({ type: 'lane.set', id: lane.id, values }, what);
  const nameOf = (one: Lane) => {
    const strip = stripOf(document, stripIdOfOwner(document, one.ownerId) ?? '')?.name ?? '';
    return `${strip}, ${laneName(document, one)}`;
  };
  return (
    <>
      <label className="lane-field" title="Moves as the opposite of another lane, around what its control is set to">
        <span>opposite of</span>
        <Form.Select
          aria-label="Moves opposite to"
          value={lane.mirrorOf ?? ''}
          onChange={(event) => set({ mirrorOf: event.target.value || null }, 'Mirror a lane')}
        >
          <option value="">nothing</option>
          {offered.map((one) => (
            <option key={one.id} value={one.id}>
              {nameOf(one)}
            </option>
          ))}
        </Form.Select>
      </label>
      {lane.mirrorOf !== null && (
        <label className="lane-field">
          <span>by</span>
          <EditableText
            label="Part of the other movement, per cent"
            width={46}
            text={`${lane.mirrorAmount} %`}
            onTyped={(text) => set({ mirrorAmount: Number(text.replace('%', '')) }, 'Amount of a mirror')}
          />
        </label>
      )}
    </>
  );
}
