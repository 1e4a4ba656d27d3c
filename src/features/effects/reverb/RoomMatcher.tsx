'use client';

import { useMemo, useState } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import Table from 'react-bootstrap/Table';
import type { RoomMatch } from '@/core/analysis/roomMatch';
import { SHIPPED_IMPULSES } from '@/core/effects/convolution/impulses/shipped';
import { LONGEST_SECONDS } from '@/core/effects/convolution/impulses/simulator';
import { formatUnit } from '@/core/effects/units';
import { runAlone } from '@/runtime/client/workerClient';
import { Sheet } from '../../controls/Sheet';
import { useStudio, useStudioState } from '../../session/StudioContext';
import { octaveAxis, secondsAxis } from '../pictures/DecayChart';
import { Chart, type ChartLine } from '../../ui/Chart';
import { TaskProgress } from '../../controls/TaskProgress';
import { useKeyedTask } from '../../session/useLongTask';

const seconds = (value: number | null) => (value === null ? '–' : value.toFixed(2));

/** Fits a reverb to an impulse and shows both, octave by octave. */
export function RoomMatcher({ insertId, onHide }: { readonly insertId: string; readonly onHide: () => void }) {
  const studio = useStudio();
  const { sampleRateHz, sounds } = useStudioState(({ document }) => ({
    sampleRateHz: document.session.sampleRateHz,
    sounds: document.assets,
  }));
  const own = Object.values(sounds).filter((one) => one.frames / one.sampleRateHz <= LONGEST_SECONDS);
  const [from, setFrom] = useState('rehearsal');
  const shipped = SHIPPED_IMPULSES.find(({ id }) => id === from);
  const name = shipped?.name ?? sounds[from]?.name ?? '';
  const { task, result, again } = useKeyedTask(from, async (progress) => {
    const impulse = shipped ? { shippedId: from } : (await studio.sounds.samplesOf([from], progress.signal))[0]!;
    return runAlone({ kind: 'match', impulse, sampleRateHz }, progress);
  });
  const use = (found: RoomMatch) => {
    const values = { ...found.values };
    if (studio.editor.perform({ type: 'insert.set', id: insertId, values }, `Reverb: matched to ${name}`)) onHide();
  };
  return (
    <Sheet title="Match to an impulse" className="workshop" onHide={onHide}>
      <div className="workshop-row">
        <Form.Select
          size="sm"
          aria-label="Impulse to match"
          value={from}
          onChange={(event) => setFrom(event.target.value)}
        >
          <optgroup label="Shipped impulses">
            {SHIPPED_IMPULSES.map((one) => (
              <option key={one.id} value={one.id}>
                {one.name}
              </option>
            ))}
          </optgroup>
          {own.length > 0 && (
            <optgroup label="Sounds of this session">
              {own.map((one) => (
                <option key={one.id} value={one.id}>
                  {one.name}
                </option>
              ))}
            </optgroup>
          )}
        </Form.Select>
        {!task.busy && !result && (
          <Button variant="line" onClick={again}>
            Match
          </Button>
        )}
        <p>Decay by octave, pre-delay, early against late, size and tone of the reverb are set by this impulse.</p>
      </div>
      <TaskProgress task={task} what={`Matching ${name}`} />
      {result && <Result name={name} result={result} onUse={() => use(result)} />}
    </Sheet>
  );
}

function Result({ name, result, onUse }: { name: string; result: RoomMatch; onUse: () => void }) {
  const matched = result.octaves.filter(({ matches }) => matches).length;
  const seen = result.octaves.filter(({ wanted }) => wanted !== null).length;
  const lines = useMemo((): ChartLine[] => {
    const course = (of: 'wanted' | 'got') =>
      result.octaves.flatMap((one) => (one[of] === null ? [] : [{ x: one.centreHz, y: one[of] }]));
    const reading = (what: string) => (x: number, y: number) =>
      `${what} ${formatUnit('s', Number(y.toPrecision(3)))} at ${formatUnit('Hz', x)}`;
    return [
      { name: 'impulse', ink: 'dry', points: course('wanted'), marks: 'bars', reading: reading(name) },
      { name: 'reverb', ink: 'wet', points: course('got'), marks: 'dots', dashed: true, reading: reading('Reverb') },
    ];
  }, [name, result]);
  const longest = Math.max(0.2, ...result.octaves.flatMap(({ wanted, got }) => [wanted ?? 0, got ?? 0]));
  return (
    <>
      <p className="matcher-verdict">
        <b>
          {matched} of {seen}
        </b>{' '}
        octaves within a tenth of {name}
        {matched * 2 < seen ? ': this is no room, and the reverb cannot stand in for it.' : '.'}
      </p>
      <Chart
        x={octaveAxis}
        y={secondsAxis(longest)}
        lines={lines}
        height={190}
        label={`Decay by octave of ${name} and of the reverb that is matched to it`}
      />
      <p className="chart-key">
        <i className="key-bar" /> {name} <i className="key-dash" /> the reverb
      </p>
      <Table size="sm" className="matcher-table">
        <thead>
          <tr>
            <th scope="col">Octave</th>
            {result.octaves.map(({ centreHz }) => (
              <th key={centreHz} scope="col">
                {formatUnit('Hz', centreHz)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {(['wanted', 'got'] as const).map((row) => (
            <tr key={row}>
              <th scope="row">{row === 'wanted' ? 'Impulse, s' : 'Reverb, s'}</th>
              {result.octaves.map((one) => (
                <td key={one.centreHz} className={row === 'got' && !one.matches ? 'matcher-off' : ''}>
                  {seconds(one[row])}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </Table>
      {result.notes.length > 0 && (
        <ul className="matcher-notes">
          {result.notes.map((note) => (
            <li key={note}>{note}</li>
          ))}
        </ul>
      )}
      <div className="workshop-row">
        <span>
          Clarity C80 {result.wanted.c80.toFixed(1)} dB, reverb {result.got.c80.toFixed(1)} dB
        </span>
        <Button variant="solid" onClick={onUse}>
          Use these settings
        </Button>
      </div>
    </>
  );
}
