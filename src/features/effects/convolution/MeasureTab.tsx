'use client';

import { useRef, useState } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { SWEEP, type SweepSettings } from '@/core/analysis/sweep';
import { SHIPPED_IMPULSES } from '@/core/effects/convolution/impulses/shipped';
import { number } from '@/core/effects/spec';
import type { JobInputs, JobResults } from '@/core/jobs/kinds';
import { useTiming } from '../../session/useRecords';
import { runAlone } from '@/runtime/client/workerClient';
import { useStudio, useStudioState } from '../../session/StudioContext';
import { DecayChart } from '../pictures/DecayChart';
import { ACCEPTED_SOUNDS } from '@/core/formats/soundFormats';
import { FilePicker } from '../../ui/FilePicker';
import { downloadFile } from '../../ui/downloadFile';
import { Ruler } from '../../ui/Ruler';
import { TaskProgress } from '../../controls/TaskProgress';
import { useLongTask } from '../../session/useLongTask';

const time = (id: keyof SweepSettings, name: string, min: number, max: number, help: string) =>
  number({ id, name, unit: 's', min, max, default: SWEEP[id], scale: 'log', help });
const PARAMETERS = [
  time('seconds', 'Length', 1, 30, 'A longer sweep stands out further from noise.'),
  time('decaySeconds', 'Silence after it', 0.5, 20, 'As long as the place rings.'),
  number({
    id: 'fromHz',
    name: 'From',
    unit: 'Hz',
    min: 20,
    max: 200,
    default: SWEEP.fromHz,
    scale: 'log',
    help: 'The lowest frequency that is measured.',
  }),
  number({
    id: 'toHz',
    name: 'To',
    unit: 'Hz',
    min: 5000,
    max: 20000,
    default: SWEEP.toHz,
    scale: 'log',
    help: 'The highest frequency that is measured.',
  }),
  number({
    id: 'levelDb',
    name: 'Level',
    unit: 'dB',
    min: -40,
    max: -1,
    default: SWEEP.levelDb,
    scale: 'linear',
    help: 'Peak of the file; turn the loudspeaker up until the place answers clearly.',
  }),
];
const NOISE = number({
  id: 'noise',
  name: 'Noise there',
  unit: 'dB',
  min: -100,
  max: -30,
  default: -66,
  scale: 'linear',
  help: 'RMS level of the noise in the recording.',
});
const CLOCK = number({
  id: 'clock',
  name: 'Recorder fast by, ppm',
  unit: '',
  min: -300,
  max: 300,
  default: 40,
  scale: 'linear',
  help: 'Two devices never agree on the length of a second.',
});

type Found = JobResults['recover'];

/** Measures a place by a sweep: the file to be played there, and the impulse out of what was recorded. */
export function MeasureTab({ onMade }: { onMade: (name: string, bytes: Uint8Array) => Promise<void> }) {
  const studio = useStudio();
  const timing = useTiming();
  const sampleRateHz = useStudioState(({ document }) => document.session.sampleRateHz);
  const task = useLongTask();
  const file = useRef<HTMLInputElement>(null);
  const [settings, setSettings] = useState<SweepSettings>(SWEEP);
  const [place, setPlace] = useState('rehearsal');
  const [noiseDb, setNoise] = useState(-66);
  const [clockPpm, setClock] = useState(40);
  const [found, setFound] = useState<{ name: string; result: Found } | null>(null);
  const placeName = SHIPPED_IMPULSES.find(({ id }) => id === place)!.name;
  const recover = async (name: string, recording: JobInputs['recover']['recording']) => {
    const result = await task.run((progress) =>
      runAlone({ kind: 'recover', settings, sampleRateHz, recording }, progress),
    );
    if (result) setFound({ name, result });
  };
  const save = async () => {
    const made = await task.run((progress) => runAlone({ kind: 'sweep', settings, sampleRateHz }, progress));
    if (made) {
      const bytes = made.bytes as Uint8Array<ArrayBuffer>;
      downloadFile(`sweep ${settings.seconds.toFixed(0)} s.wav`, new Blob([bytes], { type: 'audio/wav' }));
    }
  };
  const bringIn = async (recorded: File) => {
    try {
      const sound = await studio.worker.run({
        kind: 'decode',
        bytes: await recorded.arrayBuffer(),
        name: recorded.name,
        sampleRateHz,
      });
      await recover(recorded.name.replace(/\.[^.]*$/, ''), { left: sound.left, right: sound.right });
    } catch (error) {
      studio.messages.report(error);
    }
  };
  return (
    <div className="workshop-tab">
      <div className="workshop-columns">
        <fieldset>
          <legend>1 Play this there</legend>
          {PARAMETERS.map((one) => (
            <Ruler
              key={one.id}
              parameter={one}
              value={settings[one.id as keyof SweepSettings]}
              timing={timing}
              signal="dry"
              context="Sweep"
              onPreview={(value) => setSettings((before) => ({ ...before, [one.id]: Number(value) }))}
              onSettle={() => {}}
            />
          ))}
          <Button variant="line" disabled={task.busy} onClick={() => void save()}>
            Save the sweep
          </Button>
        </fieldset>
        <fieldset>
          <legend>2 Bring the recording in</legend>
          <p>The whole of it, from before the sweep begins, with the settings beside.</p>
          <Button variant="line" disabled={task.busy} onClick={() => file.current!.click()}>
            Choose a recording
          </Button>
          <FilePicker
            ref={file}
            label="Recording of the sweep"
            accept={ACCEPTED_SOUNDS}
            onPick={([one]) => void bringIn(one!)}
          />
          <h3>Or try it in a simulated place</h3>
          <Form.Select size="sm" aria-label="Simulated place" value={place} onChange={(e) => setPlace(e.target.value)}>
            {SHIPPED_IMPULSES.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </Form.Select>
          <Ruler
            parameter={NOISE}
            value={noiseDb}
            timing={timing}
            signal="dry"
            onPreview={(value) => setNoise(Number(value))}
            onSettle={() => {}}
          />
          <Ruler
            parameter={CLOCK}
            value={clockPpm}
            timing={timing}
            signal="dry"
            onPreview={(value) => setClock(Number(value))}
            onSettle={() => {}}
          />
          <Button
            variant="line"
            disabled={task.busy}
            onClick={() => void recover(`${placeName}, measured`, { placeId: place, noiseDb, clockPpm })}
          >
            Record there
          </Button>
        </fieldset>
        <fieldset>
          <legend>3 Result</legend>
          {found ? (
            <>
              <DecayChart measured={found.result.room} height={150} />
              <dl className="workshop-figures" aria-label="What the recording says">
                <dt>Noise under the impulse</dt>
                <dd>{found.result.noiseDb.toFixed(0)} dB</dd>
                <dt>Distortion</dt>
                <dd>{found.result.distortionDb.toFixed(0)} dB</dd>
                <dt>Recorder fast by</dt>
                <dd>{found.result.clockPpm.toFixed(1)} ppm</dd>
                <dt>Decay, T30</dt>
                <dd>{found.result.room.t30 === null ? '–' : `${found.result.room.t30.toFixed(2)} s`}</dd>
              </dl>
              <Button variant="line" onClick={() => void onMade(found.name, found.result.bytes)}>
                Keep and use
              </Button>
            </>
          ) : (
            <p>The impulse of the place, what is left of noise, and what the loudspeaker added.</p>
          )}
        </fieldset>
      </div>
      <TaskProgress task={task} what="Working on the sweep" />
    </div>
  );
}
