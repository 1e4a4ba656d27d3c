'use client';

import { useMemo, useState } from 'react';
import Button from 'react-bootstrap/Button';
import Dropdown from 'react-bootstrap/Dropdown';
import Form from 'react-bootstrap/Form';
import type { BandLevel } from '@/core/analysis/lowSpectrum';
import { formatUnit } from '@/core/effects/units';
import { number } from '@/core/effects/spec';
import { soundOf } from '@/core/session/prints';
import type { Clip } from '@/core/session/records/clips';
import { normaliseClip, repairCommand, repairOf } from '../session/clipWork';
import { useStudio, useStudioState } from '../session/StudioContext';
import { useTiming } from '../session/useRecords';
import { useWork } from '../session/useWork';
import { decibels, type ChartAxis } from '../ui/axes';
import { Chart, type ChartLine } from '../ui/Chart';

import { formatPitch } from '../ui/music';
import { Ruler } from '../ui/Ruler';

const RUMBLE = number({
  id: 'rumbleHz',
  name: 'Low cut',
  unit: 'Hz',
  min: 20,
  max: 400,
  default: 80,
  scale: 'log',
  help: 'What lies below is cut at 24 dB an octave.',
});
const PEAK = number({
  id: 'peak',
  name: 'Target',
  unit: 'dB',
  min: -24,
  max: 0,
  default: -3,
  scale: 'linear',
  help: 'The highest sample comes to this.',
});
const LOUDNESS = number({
  id: 'loudness',
  name: 'Target, LUFS',
  unit: 'dB',
  min: -40,
  max: -8,
  default: -20,
  scale: 'linear',
  help: 'The loudness of the clip comes to this, in LUFS.',
});

const HZ: ChartAxis = {
  title: 'Hz',
  min: 10,
  max: 500,
  scale: 'log',
  ticks: [10, 20, 50, 100, 200, 500],
  word: (value) => String(value),
};
const DB = decibels(-100, 0, 25, 'dB');

/** The low end of a sound, once it has been looked at. */
function useLowSpectrum(assetId: string | null): readonly BandLevel[] | null {
  const studio = useStudio();
  return useWork(assetId, async (signal) => {
    const [sound] = await studio.sounds.samplesOf([assetId!], signal);
    const { left, right } = sound!;
    const { sampleRateHz } = studio.state.document.session;
    return studio.worker.run({ kind: 'lowSpectrum', left, right, sampleRateHz }, { signal });
  });
}

const line = (name: string, ink: ChartLine['ink'], levels: readonly BandLevel[], dashed: boolean): ChartLine => ({
  name,
  ink,
  dashed,
  marks: 'none',
  points: levels.map(({ hz, db }) => ({ x: hz, y: db })),
  reading: (hz, db) => `${name} ${formatUnit('dB', Number(db.toFixed(1)))} at ${formatPitch(hz)}`,
});

interface Props {
  readonly clip: Clip;
  /** True if its sound is printed from another clip, and again whenever that changes. */
  readonly linked: boolean;
}

/** Repairs of a clip's sound ahead of all effects: level, DC offset, rumble. The file stays as it is. */
export function Repairs(props: Props) {
  const [open, setOpen] = useState(false);
  return (
    <Dropdown drop="up" autoClose="outside" onToggle={setOpen} show={open}>
      <Dropdown.Toggle variant="plain" bsPrefix="preset-toggle">
        Fix
      </Dropdown.Toggle>
      <Dropdown.Menu
        className="repairs"
        onKeyDown={(event) => {
          if (event.key !== 'Escape') return;
          // The clip stays chosen.
          event.preventDefault();
          setOpen(false);
        }}
      >
        {open && <RepairSheet {...props} />}
      </Dropdown.Menu>
    </Dropdown>
  );
}

function RepairSheet({ clip, linked }: Props) {
  const studio = useStudio();
  const timing = useTiming();
  useStudioState(({ document }) => document.prints);
  const repair = repairOf(studio, clip);
  const [normalTo, setNormalTo] = useState<'peak' | 'loudness'>('loudness');
  const [targets, setTargets] = useState({ peak: -3, loudness: -20 });
  const { document } = studio.state;
  const before = useLowSpectrum(soundOf(document, repair.source));
  const now = soundOf(document, clip.source);
  const after = useLowSpectrum(now === soundOf(document, repair.source) ? null : now);
  const lines = useMemo(
    () => [
      ...(before ? [line('Before', 'soft', before, true)] : []),
      ...(after ? [line('After', 'dry', after, false)] : []),
    ],
    [before, after],
  );
  const target = normalTo === 'peak' ? PEAK : LOUDNESS;
  const label = `Repair ${clip.name}`;
  return (
    <>
      <div className="repair-row">
        <Form.Select
          size="sm"
          aria-label="Normalise to"
          value={normalTo}
          onChange={(event) => setNormalTo(event.target.value as 'peak' | 'loudness')}
        >
          <option value="loudness">Loudness</option>
          <option value="peak">Peak</option>
        </Form.Select>
        <Ruler
          parameter={target}
          value={targets[normalTo]}
          timing={timing}
          signal="dry"
          onPreview={(value) => setTargets({ ...targets, [normalTo]: Number(value) })}
          onSettle={() => {}}
        />
        <Button variant="line" onClick={() => void normaliseClip(studio, clip, normalTo, targets[normalTo])}>
          Normalise
        </Button>
      </div>
      <Form.Check
        type="switch"
        id="repair-dc"
        disabled={linked}
        label="Remove the offset (DC)"
        checked={repair.removeDc}
        onChange={(event) =>
          studio.editor.perform(repairCommand(studio, clip, { removeDc: event.target.checked }), label)
        }
      />
      <Form.Check
        type="switch"
        id="repair-rumble"
        disabled={linked}
        label="Cut rumble"
        checked={repair.rumbleHz > 0}
        onChange={(event) =>
          studio.editor.perform(repairCommand(studio, clip, { rumbleHz: event.target.checked ? 80 : 0 }), label)
        }
      />
      {repair.rumbleHz > 0 && (
        <Ruler
          parameter={RUMBLE}
          value={repair.rumbleHz}
          timing={timing}
          signal="dry"
          onPreview={(value) => studio.editor.preview(repairCommand(studio, clip, { rumbleHz: Number(value) }), label)}
          onSettle={() => studio.editor.settle()}
          onCancel={() => studio.editor.abandon()}
        />
      )}
      {linked && <p>It follows the clip that it was rendered from. Unlink it to fix its sound, or fix that clip.</p>}
      <p className="repair-legend">
        Below 500 Hz: <i>before</i> and <b>after</b>
      </p>
      <Chart
        x={HZ}
        y={DB}
        lines={lines}
        height={140}
        label={`Level of ${clip.name} from 10 to 500 Hz, ${after ? 'before and after its repair' : 'as it is'}`}
      />
    </>
  );
}
