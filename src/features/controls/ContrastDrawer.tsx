'use client';

import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import type { Portrait, Region } from '@/core/analysis/portrait';
import { formatUnit } from '@/core/effects/units';
import { bandsOnto, contrastBands } from '@/core/session/contrast';
import { compileTap } from '@/core/session/compile/parts';
import { channels, stripOf } from '@/core/session/records/queries';
import type { Return, Track } from '@/core/session/records/strips';
import type { SessionDocument } from '@/core/session/records/document';
import { portraits } from '../session/bandProfile';
import { newId } from '../session/newId';
import { useKeyedTask } from '../session/useLongTask';
import { useStudio, useStudioState } from '../session/StudioContext';
import { decibels, frequencyAxis, minus } from '../ui/axes';
import { Chart, type ChartLine } from '../ui/Chart';
import { Drawer } from './Drawer';
import { TaskProgress } from './TaskProgress';

const LEVELS = decibels(-48, 0, 12, 'level');

/** The strip that a sound most likely masks: the return that it is sent to, or a strip that sends to it. */
function partnerOf(document: SessionDocument, id: string): string | undefined {
  const sends = Object.values(document.sends);
  return (
    sends.find(({ fromId }) => fromId === id)?.toId ??
    sends.find(({ toId }) => toId === id)?.fromId ??
    channels(document).find((one) => one.id !== id)?.id
  );
}

/** Makes room for a sound in another: both spectra, and the equalizer that lowers one where the other is strong. */
export function ContrastDrawer() {
  const studio = useStudio();
  const { document, stripId } = useStudioState(({ document, stripId }) => ({ document, stripId }));
  const all = channels(document);
  const [pair, setPair] = useState(() => pairFor(document, stripId));
  const { soundId, spaceId } = pair;
  const sound = stripOf(document, soundId);
  const space = stripOf(document, spaceId);
  const canListen = sound !== undefined && space !== undefined && soundId !== spaceId;
  const { task, result, again } = useKeyedTask(canListen ? `${soundId} ${spaceId}` : null, (progress) =>
    portraits(studio, [compileTap(document, soundId), compileTap(document, spaceId)], progress),
  );
  const now = result && { sound: result[0]!, space: result[1]! };
  const apply = (regions: readonly Region[]) => {
    const command = bandsOnto(studio.state.document, spaceId, contrastBands(regions), newId());
    if (!studio.editor.perform(command, `Room for ${sound!.name} in ${space!.name}`)) return;
    studio.selection.selectStrip(spaceId);
  };
  return (
    <Drawer title="Contrast">
      {all.length < 2 ? (
        <p>Contrast takes two: a sound, and a return or another track to make room for it in.</p>
      ) : (
        <>
          <Choice
            label="Sound"
            strips={all}
            value={soundId}
            onChosen={(id) =>
              setPair({ soundId: id, spaceId: id === spaceId ? (partnerOf(document, id) ?? '') : spaceId })
            }
          />
          <Choice
            label="Yields to it"
            strips={all.filter(({ id }) => id !== soundId)}
            value={spaceId}
            onChosen={(id) => setPair({ soundId, spaceId: id })}
          />
          <Chart
            x={frequencyAxis}
            y={LEVELS}
            lines={now ? [lineOf(sound!.name, 'dry', now.sound), lineOf(space!.name, 'wet', now.space)] : []}
            height={210}
            label="Both spectra by thirds of an octave"
          />
          {now && (
            <p className="chart-key">
              <i className="key-bar" /> {sound!.name} <i className="key-dash" /> {space!.name}
            </p>
          )}
          <TaskProgress task={task} what="Listening to both" />
          {now && <Regions name={sound!.name} regions={now.sound.regions} />}
          <div className="contrast-acts">
            {now && now.sound.regions.length > 0 && (
              <Button variant="solid" onClick={() => apply(now.sound.regions)}>
                Lower {space!.name} there
              </Button>
            )}
            <Button variant="line" disabled={task.busy || !canListen} onClick={again}>
              Listen again
            </Button>
          </div>
        </>
      )}
    </Drawer>
  );
}

/** The pair that is offered for a strip: a return yields to what is sent to it, a track is given room where it is sent to. */
function pairFor(document: SessionDocument, stripId: string): { soundId: string; spaceId: string } {
  const isReturn = document.returns[stripId] !== undefined;
  const wanted = isReturn ? (partnerOf(document, stripId) ?? stripId) : stripId;
  const all = channels(document);
  const soundId = all.some(({ id }) => id === wanted) ? wanted : (all[0]?.id ?? '');
  return { soundId, spaceId: isReturn ? stripId : (partnerOf(document, soundId) ?? '') };
}

function Choice(props: {
  readonly label: string;
  readonly strips: readonly (Track | Return)[];
  readonly value: string;
  readonly onChosen: (id: string) => void;
}) {
  const { label, strips, value, onChosen } = props;
  return (
    <label className="choice">
      <span>{label}</span>
      <Form.Select aria-label={label} value={value} onChange={(event) => onChosen(event.target.value)}>
        {!strips.some(({ id }) => id === value) && <option value={value}>choose</option>}
        {strips.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </Form.Select>
    </label>
  );
}

const inHz = (hz: number) => formatUnit('Hz', Number(hz.toPrecision(2)));

/** The spectrum of a sound, and the cuts that would be made in another. */
function Regions({ name, regions }: { readonly name: string; readonly regions: readonly Region[] }) {
  if (regions.length === 0)
    return <p role="status">No region of {name} stands out: there is nothing to make room for.</p>;
  const bands = contrastBands(regions);
  return (
    <p role="status">
      {name} lives around{' '}
      {regions.map(({ centreHz, fromHz, toHz }, n) => (
        <span key={centreHz}>
          {n > 0 && (n === regions.length - 1 ? ' and ' : ', ')}
          <b>{inHz(centreHz)}</b> ({inHz(fromHz)} to {inHz(toHz)}, taken {minus(String(bands[n]!.gain))} dB)
        </span>
      ))}
      .
    </p>
  );
}

const lineOf = (name: string, ink: 'dry' | 'wet', { hz, levelsDb }: Portrait): ChartLine => ({
  name,
  ink,
  points: hz.map((x, n) => ({ x, y: Math.max(LEVELS.min, levelsDb[n]!) })),
  marks: 'none',
  dashed: ink === 'wet',
  reading: (x, y) => `${name} ${minus(y.toFixed(1))} dB at ${inHz(x)}`,
});
