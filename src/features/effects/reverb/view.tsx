'use client';

import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import { specOf } from '@/core/effects/registry';
import { findSetting, defaultValues } from '@/core/effects/spec';
import { resolveSetting, writeCurve, type CurveSetting } from '@/core/effects/settings';
import type { Insert } from '@/core/session/records/inserts';
import { useStudio } from '../../session/StudioContext';
import { RoomMatcher } from './RoomMatcher';
import { DecayChart, type DecayPoint } from '../pictures/DecayChart';
import type { EffectExtras } from '../extras';
import { useRoom } from '../pictures/pictures';
import { QualityLoads } from './QualityLoads';
import { RoomFigures } from '../pictures/RoomFigures';
import { RoomPlan } from './RoomPlan';
import { WetSpectrogram } from './WetSpectrogram';
import './reverb.css';

const spec = specOf('reverb');
const setting = findSetting(spec, 'decayCurve') as CurveSetting;
const PARTS = [
  ['both', 'Both'],
  ['early', 'Early alone'],
  ['late', 'Tail alone'],
] as const;

/** Decay of a reverb by frequency with its target, the plan of the room, and its measured figures. */
function RoomPicture({ insert }: { readonly insert: Insert }) {
  const studio = useStudio();
  const [matching, setMatching] = useState(false);
  const { result: room, busy } = useRoom(insert);
  const values = { ...defaultValues(spec), ...insert.values };
  const decay = Number(values.decay);
  const curve = resolveSetting(setting, values.decayCurve);
  const points =
    curve.kind === 'curve' ? curve.x.map((hz, n) => ({ hz: Math.max(40, hz), seconds: decay * curve.y[n]! })) : [];
  const change = (next: readonly DecayPoint[]) => {
    const factors = next.map(({ hz, seconds }) => ({
      x: hz,
      y: Number(Math.min(setting.y.max, Math.max(setting.y.min, seconds / decay)).toPrecision(3)),
    }));
    // Two points in one place are one.
    const apart = factors.filter(({ x }, n) => n === 0 || x !== factors[n - 1]!.x);
    studio.editor.preview(
      { type: 'insert.set', id: insert.id, values: { decayCurve: writeCurve(apart) } },
      'Reverb: decay by frequency',
    );
  };
  return (
    <div className="room-picture">
      <div className="room-decay">
        <DecayChart
          measured={room}
          height={196}
          wish={{
            points,
            mostPoints: setting.mostPoints,
            least: decay * setting.y.min,
            most: decay * setting.y.max,
            onChange: change,
            onSettle: () => studio.editor.settle(),
            onCancel: () => studio.editor.abandon(),
          }}
        />
        <p className="chart-key">
          <i className="key-bar" /> measured in each octave <i className="key-dash" /> wished: drag the points, double
          click for another
        </p>
        <WetSpectrogram insert={insert} />
      </div>
      <div className="room-side">
        <RoomPlan insert={insert} />
        <RoomFigures room={room} busy={busy} />
        <QualityLoads key={insert.id} insert={insert} />
        <div className="picture-choice" role="group" aria-label="Listen to">
          {PARTS.map(([id, name]) => (
            <Button
              bsPrefix="bare"
              key={id}
              aria-pressed={values.listen === id}
              onClick={() =>
                studio.editor.perform(
                  { type: 'insert.set', id: insert.id, values: { listen: id } },
                  `Reverb: ${name.toLowerCase()}`,
                )
              }
            >
              {name}
            </Button>
          ))}
        </div>
        <Button variant="plain" title="Sets it by an impulse, octave by octave" onClick={() => setMatching(true)}>
          Match an impulse
        </Button>
        {matching && <RoomMatcher insertId={insert.id} onHide={() => setMatching(false)} />}
      </div>
    </div>
  );
}

export const reverbView: EffectExtras = {
  Picture: RoomPicture,
  pictureName: 'Room',
  parts: [
    { name: 'early', values: { listen: 'early', mix: 100 } },
    { name: 'tail', values: { listen: 'late', mix: 100 } },
  ],
  shows: (id) =>
    ['decayCurve', 'listen', 'sourceAcross', 'sourceAlong', 'listenerAcross', 'listenerAlong'].includes(id),
  withoutHistory: true,
};
