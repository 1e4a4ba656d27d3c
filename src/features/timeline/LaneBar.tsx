'use client';

import { useState } from 'react';
import { MousePointer2, Pencil } from 'lucide-react';
import Dropdown from 'react-bootstrap/Dropdown';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { messageOf } from '@/core/errors';
import { NOTE_VALUES, noteValueBeats } from '@/core/effects/noteValues';
import { formatValue, parseValue } from '@/core/effects/parameterText';
import {
  invert,
  LANE_SHAPES,
  repeatTo,
  scale,
  shapePoints,
  replaceWithin,
  stretch,
  type LaneShape,
} from '@/core/session/laneEdits';
import { heightOf, laneOrigin, laneName, laneParameter, stripIdOfOwner } from '@/core/session/lanes';
import { beatsPerBar, stripOf, timingOf } from '@/core/session/records/queries';
import type { Lane, Point } from '@/core/session/records/lanes';
import { useStudio, useStudioState } from '../session/StudioContext';
import { EditableText } from '../ui/EditableText';

const SHAPE_WORDS: Record<LaneShape, string> = {
  sine: 'Sine',
  triangle: 'Triangle',
  rampUp: 'Ramp up',
  rampDown: 'Ramp down',
  square: 'Square',
  randomSteps: 'Random steps',
};

/** Tools for the lane that is open: figures of the chosen points, what can be done to them, shapes, mirror. */
export function LaneBar({ lane }: { lane: Lane }) {
  const studio = useStudio();
  const { document, indices, tool } = useStudioState((state) => ({
    document: state.document,
    indices: state.pointIndices,
    tool: state.laneTool,
  }));
  const [error, setError] = useState<string | null>(null);
  const parameter = laneParameter(document, lane.ownerId, lane.parameter)!;
  const label = laneName(document, lane);
  const chosen = new Set(indices);
  const first = lane.points[Math.min(...indices)];
  const set = (values: Partial<Lane>, what: string) =>
    studio.editor.perform({ type: 'lane.set', id: lane.id, values }, `${what} ${label}`);
  const { loopStartBeat, loopEndBeat } = document.session;
  return (
    <div className="lane-bar" aria-label={`Tools for the lane of ${label}`} role="group">
      <b title={label}>
        {stripOf(document, stripIdOfOwner(document, lane.ownerId) ?? '')?.name}, {label}
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
      {parameter.kind === 'number' && lane.mirrorOf === null && <ShapeMenu lane={lane} />}
      <MirrorChoice lane={lane} />
      <Button
        variant="plain"
        title={lane.on ? 'The lane moves the control' : 'The control is held by hand'}
        onClick={() => set({ on: !lane.on }, lane.on ? 'Hold' : 'Give back')}
      >
        {lane.on ? 'Hold by hand' : 'Give back'}
      </Button>
      <Button
        variant="plain"
        onClick={() => studio.editor.perform({ type: 'lane.remove', id: lane.id }, `Remove the lane of ${label}`)}
      >
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

interface PointProps {
  readonly lane: Lane;
  /** The first of the chosen points. */
  readonly first: Point;
  /** Says what was wrong with what was typed; null once nothing is. */
  readonly onError: (error: string | null) => void;
}

/** Changes of the chosen points of a lane. */
function useChosenPoints({ lane, onError }: PointProps) {
  const studio = useStudio();
  const { document, indices } = useStudioState((state) => ({ document: state.document, indices: state.pointIndices }));
  const chosen: ReadonlySet<number> = new Set(indices);
  const edit = (points: readonly Point[], what: string) =>
    studio.editor.perform(
      { type: 'lane.set', id: lane.id, values: { points: [...points] } },
      `${what} ${laneName(document, lane)}`,
    );
  /** Changes every chosen point; they stay in the order of their beats. */
  const change = (changed: (point: Point) => Partial<Point>, what: string) =>
    edit(
      lane.points
        .map((point, index) => (chosen.has(index) ? { ...point, ...changed(point) } : point))
        .sort((a, b) => a.beat - b.beat),
      what,
    );
  const typed = (work: () => void) => {
    try {
      work();
      onError(null);
    } catch (caught) {
      onError(messageOf(caught));
    }
  };
  const parameter = laneParameter(document, lane.ownerId, lane.parameter)!;
  return { document, indices, chosen, edit, change, typed, parameter, timing: timingOf(document) };
}

/** Beat, value and shape of the chosen points. */
function PointFields(props: PointProps) {
  const { lane, first } = props;
  const { document, change, typed, parameter, timing } = useChosenPoints(props);
  const origin = laneOrigin(document, lane);
  return (
    <>
      <label className="lane-field">
        <span>beat</span>
        <EditableText
          label="Beat of the first chosen point"
          width={52}
          text={String(Number((first.beat + origin).toFixed(3)))}
          onTyped={(text) =>
            typed(() => {
              const beat = Number(text) - origin;
              if (!Number.isFinite(beat) || beat < 0) throw new Error(`A beat is a number from 0 on, not ${text}.`);
              const by = beat - first.beat;
              change((point) => ({ beat: Math.max(0, point.beat + by) }), 'Move points of');
            })
          }
        />
      </label>
      <label className="lane-field">
        <span>value</span>
        <EditableText
          label="Value of the chosen points"
          width={84}
          text={formatValue(parameter, first.value, timing)}
          onTyped={(text) => typed(() => change(() => ({ value: parseValue(parameter, text) }), 'Set points of'))}
        />
      </label>
      {parameter.kind === 'number' && (
        <label className="lane-field">
          <span>then</span>
          <Form.Select
            aria-label="How it goes on"
            value={first.shape}
            onChange={(event) => {
              const shape = event.target.value as Point['shape'];
              change(() => ({ shape, bend: shape === 'curved' ? first.bend || 0.5 : 0 }), 'Shape');
            }}
          >
            <option value="straight">straight</option>
            <option value="curved">curved</option>
            <option value="hold">hold</option>
          </Form.Select>
        </label>
      )}
      {first.shape === 'curved' && (
        <label className="lane-field">
          <span>bend</span>
          <EditableText
            label="Bend, -1 late to 1 early"
            width={40}
            text={first.bend.toFixed(2)}
            onTyped={(text) =>
              typed(() => {
                const bend = Number(text);
                if (!(bend >= -1 && bend <= 1)) throw new Error(`A bend goes from -1 to 1, not ${text}.`);
                change(() => ({ bend }), 'Bend');
              })
            }
          />
        </label>
      )}
    </>
  );
}

/** Turning over, scaling, stretching and repeating the chosen points. */
function PointTools(props: PointProps) {
  const { lane, first } = props;
  const { document, indices, chosen, edit, typed, parameter, timing } = useChosenPoints(props);
  const origin = laneOrigin(document, lane);
  const { loopEndBeat } = document.session;
  const percent = (text: string, work: (by: number) => void) =>
    typed(() => {
      const by = Number(text.replace('%', ''));
      if (!Number.isFinite(by) || by < 1 || by > 1000) throw new Error(`Per cent go from 1 to 1000, not ${text}.`);
      work(by);
    });
  return (
    <>
      {chosen.size > 1 && parameter.kind === 'number' && (
        <>
          <Button
            variant="plain"
            title="Turn the chosen points over"
            onClick={() => edit(invert(lane.points, chosen, parameter, timing), 'Invert')}
          >
            Invert
          </Button>
          <label className="lane-field" title="Makes the movement larger or smaller">
            <span>scale</span>
            <EditableText
              label="Scale the movement, per cent"
              width={42}
              text="100 %"
              onTyped={(text) =>
                percent(text, (by) => edit(scale(lane.points, chosen, by, parameter, timing), 'Scale'))
              }
            />
          </label>
          <label className="lane-field" title="Makes it last longer or shorter">
            <span>stretch</span>
            <EditableText
              label="Stretch in time, per cent"
              width={42}
              text="100 %"
              onTyped={(text) => percent(text, (by) => edit(stretch(lane.points, chosen, by), 'Stretch'))}
            />
          </label>
        </>
      )}
      <Button
        variant="plain"
        title="Say the chosen points again, bar after bar, up to the end of the loop"
        onClick={() => {
          const bar = beatsPerBar(document.session);
          const covered = lane.points[Math.max(...indices)]!.beat - first.beat;
          const period = Math.max(bar, Math.ceil(covered / bar - 1e-9) * bar);
          edit(repeatTo(lane.points, chosen, period, Math.max(0, loopEndBeat - origin)), 'Repeat');
        }}
      >
        Repeat to loop end
      </Button>
    </>
  );
}

/** Fills the loop with a shape, one cycle a note value, between two values. */
function ShapeMenu({ lane }: { lane: Lane }) {
  const studio = useStudio();
  const document = useStudioState(({ document }) => document);
  const [note, setNote] = useState('1bar');
  const [low, setLow] = useState('');
  const [high, setHigh] = useState('');
  const [error, setError] = useState<string | null>(null);
  const timing = timingOf(document);
  const parameter = laneParameter(document, lane.ownerId, lane.parameter)!;
  if (parameter.kind !== 'number') return null;
  const fill = (shape: LaneShape) => {
    try {
      const from = low.trim() === '' ? 0.25 : heightOf(parameter, parseValue(parameter, low), timing);
      const to = high.trim() === '' ? 0.75 : heightOf(parameter, parseValue(parameter, high), timing);
      const origin = laneOrigin(document, lane);
      const { loopStartBeat, loopEndBeat } = document.session;
      const range = { from: Math.max(0, loopStartBeat - origin), to: Math.max(0, loopEndBeat - origin) };
      const seed = lane.points.length + 1;
      const shaped = shapePoints(shape, range, noteValueBeats(note, timing)!, from, to, parameter, seed);
      const points = replaceWithin(lane.points, shaped, range);
      studio.editor.perform(
        { type: 'lane.set', id: lane.id, values: { points } },
        `${SHAPE_WORDS[shape]} for ${parameter.name}`,
      );
      setError(null);
    } catch (caught) {
      setError(messageOf(caught));
    }
  };
  return (
    <Dropdown align="end" drop="up" autoClose="outside">
      <Dropdown.Toggle variant="plain" bsPrefix="preset-toggle">
        Shapes ▾
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
