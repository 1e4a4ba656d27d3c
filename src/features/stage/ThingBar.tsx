'use client';

import Button from 'react-bootstrap/Button';
import Dropdown from 'react-bootstrap/Dropdown';
import { channelOf, endBeat } from '@/core/session/records/queries';
import type { Return, Track } from '@/core/session/records/strips';
import type { SessionDocument } from '@/core/session/records/document';
import { lanesToPath, motionToLanes } from '@/core/session/stageMotion';
import { firstPlace, isStereo, placeValues } from '@/core/session/stagePlacement';
import type { Command } from '@/core/session/commands';
import { newId } from '../session/newId';
import { oppositeCommand, oppositesFor, putOnStage, takeOffStage } from '../session/staging';
import { useStudio, useStudioState } from '../session/StudioContext';

interface Props {
  readonly drawing: boolean;
  readonly onDraw: () => void;
}

/** The stretch that is written into lanes, or read from them: the loop, or all there is. */
function stretchOf(document: SessionDocument): { from: number; to: number } {
  const { loopOn, loopStartBeat, loopEndBeat } = document.session;
  return loopOn ? { from: loopStartBeat, to: loopEndBeat } : { from: 0, to: Math.max(4, endBeat(document)) };
}

/** Tools for the selected thing. */
export function ThingBar({ drawing, onDraw }: Props) {
  const studio = useStudio();
  const { strip, document } = useStudioState(({ document, stripId }) => ({
    strip: channelOf(document, stripId),
    document,
  }));
  if (!strip) return <div className="thing-bar">The main output is where everything on the stage is heard.</div>;
  if (strip.placeId === null) {
    const others = oppositesFor(document, strip);
    const nearest = document.returns[strip.id]?.role === 'return' ? others[0] : undefined;
    return (
      <div className="thing-bar" role="group" aria-label={strip.name}>
        <b>{strip.name}</b>
        <span>is not on the stage: placed by its pan.</span>
        <Button variant="line" onClick={() => putOnStage(studio, [strip])}>
          Place it on the stage
        </Button>
        {nearest && (
          <Button
            variant="line"
            onClick={() =>
              studio.editor.perform(
                oppositeCommand(document, strip, nearest.id),
                `${strip.name} stands opposite to ${nearest.name}`,
              )
            }
          >
            Stand opposite to {nearest.name}
          </Button>
        )}
      </div>
    );
  }
  return <Placed strip={strip} document={document} drawing={drawing} onDraw={onDraw} />;
}

function Placed(props: Props & { readonly strip: Track | Return; readonly document: SessionDocument }) {
  const { strip, document, drawing, onDraw } = props;
  const studio = useStudio();
  const opposite = strip.oppositeOf === null ? null : channelOf(document, strip.oppositeOf)!;
  const moves = placeValues(document, strip).motion !== 'none';
  const lanes = Object.values(document.lanes).some(
    ({ ownerId, parameter }) => ownerId === strip.placeId && (parameter === 'azimuth' || parameter === 'distance'),
  );
  const attempt = (make: () => Command, label: string) => {
    try {
      studio.editor.perform(make(), label);
    } catch (error) {
      studio.messages.report(error);
    }
  };
  return (
    <div className="thing-bar" role="group" aria-label={strip.name}>
      <b>{strip.name}</b>
      {opposite && <span>moves opposite to {opposite.name}</span>}
      {isStereo(document, strip) && <Width strip={strip} document={document} />}
      <Button
        variant="line"
        aria-pressed={strip.solo}
        onClick={() =>
          studio.editor.perform(
            { type: 'strip.set', id: strip.id, values: { solo: !strip.solo } },
            `Solo ${strip.name}`,
          )
        }
      >
        Solo
      </Button>
      <OppositeMenu strip={strip} document={document} />
      {!opposite && (
        <Button
          variant="line"
          aria-pressed={drawing}
          data-help="Press, then draw a path on the plan: it moves along the path at its rate."
          onClick={onDraw}
        >
          {drawing ? 'Draw it now' : 'Draw a path'}
        </Button>
      )}
      {!opposite && moves && (
        <Button
          variant="line"
          data-help="Its motion becomes points of lanes, within the loop or over everything, that can be edited one by one."
          onClick={() =>
            attempt(
              () => motionToLanes(document, strip, stretchOf(document), newId),
              `${strip.name}: motion into lanes`,
            )
          }
        >
          Into lanes
        </Button>
      )}
      {!opposite && lanes && !moves && (
        <Button
          variant="line"
          data-help="What its lanes do within the loop, or over everything, becomes a path that it goes along in as much time."
          onClick={() =>
            attempt(() => lanesToPath(document, strip, stretchOf(document)), `${strip.name}: path from lanes`)
          }
        >
          Path from lanes
        </Button>
      )}
      <Button
        variant="line"
        data-help="Where it is strong in the spectrum, and cuts in its space to match"
        onClick={() => studio.set({ drawer: 'contrast' })}
      >
        Contrast
      </Button>
      <Button variant="line" onClick={() => takeOffStage(studio, strip)}>
        Off the stage
      </Button>
    </div>
  );
}

/** Width of a stereo sound. */
function Width({ strip, document }: { readonly strip: Track | Return; readonly document: SessionDocument }) {
  const studio = useStudio();
  const size = Number(placeValues(document, strip).size);
  if (size > 0) return <span>stereo, its sides {Number(size.toPrecision(2))} m apart</span>;
  const { size: wide, spread } = firstPlace(document, strip);
  return (
    <>
      <span>stereo, both sides in one point</span>
      <Button
        variant="line"
        onClick={() =>
          studio.editor.perform(
            { type: 'insert.set', id: strip.placeId!, values: { size: wide!, spread: spread! } },
            `Width of ${strip.name}`,
          )
        }
      >
        Keep its width
      </Button>
    </>
  );
}

/** Choice of the strip that a thing mirrors, and on which axis. */
function OppositeMenu({ strip, document }: { readonly strip: Track | Return; readonly document: SessionDocument }) {
  const studio = useStudio();
  const others = oppositesFor(document, strip);
  const set = (otherId: string | null, label: string) =>
    studio.editor.perform(oppositeCommand(document, strip, otherId), label);
  if (others.length === 0 && strip.oppositeOf === null) return null;
  return (
    <Dropdown drop="up">
      <Dropdown.Toggle variant="line" bsPrefix="preset-toggle">
        Opposite
      </Dropdown.Toggle>
      <Dropdown.Menu>
        {others.map((other) => (
          <Dropdown.Item
            key={other.id}
            as="button"
            type="button"
            onClick={() => set(other.id, `${strip.name} across from ${other.name}`)}
          >
            Across from {other.name}
          </Dropdown.Item>
        ))}
        {strip.oppositeOf !== null && (
          <Dropdown.Item as="button" type="button" onClick={() => set(null, `${strip.name} moves by itself`)}>
            By itself, from where it is
          </Dropdown.Item>
        )}
      </Dropdown.Menu>
    </Dropdown>
  );
}
