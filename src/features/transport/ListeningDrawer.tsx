'use client';

import { useMemo } from 'react';
import Button from 'react-bootstrap/Button';
import { LISTENING_PLACES, listeningPlace } from '@/core/listening/catalogue';
import type { ListeningResponse } from '@/core/listening/responses';
import { useStudio, useStudioState } from '../session/StudioContext';
import { useWork } from '../session/useWork';
import { decibels, frequencyAxis, minus } from '../ui/axes';
import { Chart, type ChartLine } from '../ui/Chart';
import { Drawer } from '../controls/Drawer';

const LEVELS = decibels(-36, 12, 12, 'level');

/** Listening places, what each takes away, and the response of the chosen one. */
export function ListeningDrawer() {
  const studio = useStudio();
  const listening = useStudioState((state) => state.listening);
  return (
    <Drawer title="Listening places">
      <p className="listening-note">
        The output as it is heard elsewhere, at the same loudness. It is for listening alone: no bounce and no print has
        it.
      </p>
      <Response key={listening} id={listening} />
      <ol className="listening-places">
        {LISTENING_PLACES.map(({ id, name, about, takes }, n) => (
          <li key={id}>
            <Button
              bsPrefix="listening-place"
              aria-pressed={listening === id}
              onClick={() => void studio.monitor.listenAt(id)}
            >
              <kbd>{n + 1}</kbd>
              <b>{name}</b>
              <span>{about}</span>
              {takes.length > 0 && <small>Takes away {takes.join('; ')}.</small>}
            </Button>
          </li>
        ))}
      </ol>
    </Drawer>
  );
}

/** Response of a place to mid and to side. */
function Response({ id }: { readonly id: string }) {
  const studio = useStudio();
  const rate = useStudioState(({ document }) => document.session.sampleRateHz);
  const found = useWork(`listening ${id} ${rate}`, () => studio.monitor.listeningPlace(id));
  const lines = useMemo(() => (found ? linesOf(found.response) : []), [found]);
  return (
    <figure className="curve-picture">
      <Chart
        x={frequencyAxis}
        y={LEVELS}
        lines={lines}
        height={170}
        label={`Response in the place ${listeningPlace(id).name}`}
      />
      <figcaption>
        <span className="legend legend-middle">middle</span>
        <span className="legend legend-sides">sides</span>
      </figcaption>
    </figure>
  );
}

function linesOf({ hz, middle, sides }: ListeningResponse): ChartLine[] {
  const line = (name: string, ink: ChartLine['ink'], y: Float64Array): ChartLine => ({
    name,
    ink,
    points: Array.from(hz, (x, n) => ({ x, y: Math.max(LEVELS.min, y[n]!) })),
    marks: 'none',
    dashed: ink === 'wet',
    reading: (x, level) => `${name} ${minus(level.toFixed(1))} dB at ${frequencyAxis.word(x)}`,
  });
  return [line('middle', 'dry', middle), line('sides', 'wet', sides)];
}
