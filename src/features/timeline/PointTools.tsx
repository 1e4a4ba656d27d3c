'use client';

import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { messageOf } from '@/core/errors';
import { formatValue, parseValue } from '@/core/effects/parameterText';
import { invert, repeatTo, scale, stretch } from '@/core/session/laneEdits';
import { laneOrigin, laneName, laneParameter } from '@/core/session/lanes';
import { beatsPerBar, timingOf } from '@/core/session/records/queries';
import type { Lane, Point } from '@/core/session/records/lanes';
import { useStudio, useStudioState } from '../session/StudioContext';
import { EditableText } from '../ui/EditableText';

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
export function PointFields(props: PointProps) {
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

/** A factor to type; it stands at 100 % again once it has been applied. */
function PercentField(props: {
  readonly name: string;
  readonly title: string;
  readonly label: string;
  readonly onTyped: (text: string) => void;
}) {
  const { name, title, label, onTyped } = props;
  return (
    <label className="lane-field" title={title}>
      <span>{name}</span>
      <EditableText label={label} width={42} text="100 %" onTyped={onTyped} />
    </label>
  );
}

/** Turning over, scaling, stretching and repeating the chosen points. */
export function PointTools(props: PointProps) {
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
            title="Invert the chosen points"
            onClick={() => edit(invert(lane.points, chosen, parameter, timing), 'Invert')}
          >
            Invert
          </Button>
          <PercentField
            name="scale"
            title="Makes the movement larger or smaller"
            label="Scale the movement, per cent"
            onTyped={(text) => percent(text, (by) => edit(scale(lane.points, chosen, by, parameter, timing), 'Scale'))}
          />
          <PercentField
            name="stretch"
            title="Makes it last longer or shorter"
            label="Stretch in time, per cent"
            onTyped={(text) => percent(text, (by) => edit(stretch(lane.points, chosen, by), 'Stretch'))}
          />
        </>
      )}
      <Button
        variant="plain"
        title="Repeats the chosen points, bar after bar, up to the end of the loop"
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
