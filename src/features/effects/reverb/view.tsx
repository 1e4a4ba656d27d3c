'use client';

import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import { specOf } from '@/core/effects/registry';
import { findSetting, defaultValues } from '@/core/effects/spec';
import { resolveSetting, writeOctaves, type OctavesSetting, type ResolvedSetting } from '@/core/effects/settings';
import type { Insert } from '@/core/session/records/inserts';
import { useStudio, useStudioState } from '../../session/StudioContext';
import { RoomMatcher } from './RoomMatcher';
import type { EffectExtras } from '../extras';
import { DecayColumns } from './DecayColumns';
import { useRoom } from '../pictures/pictures';
import { QualityLoads } from './QualityLoads';
import { RoomFigures } from '../pictures/RoomFigures';
import { RoomPlan } from './RoomPlan';
import { WetSpectrogram } from './WetSpectrogram';
import './reverb.css';

const spec = specOf('reverb');
const setting = findSetting(spec, 'decayOctaves') as OctavesSetting;
const PARTS = [
  ['both', 'off'],
  ['early', 'early'],
  ['late', 'tail'],
] as const;

/** Decay of a reverb by frequency with its target, the plan of the room, and its measured figures. */
function RoomPicture({ insert }: { readonly insert: Insert }) {
  const studio = useStudio();
  const { result: room, busy } = useRoom(insert);
  const values = { ...defaultValues(spec), ...insert.values };
  const sampleRateHz = useStudioState(({ document }) => document.session.sampleRateHz);
  const { factors } = resolveSetting(setting, values.decayOctaves) as ResolvedSetting & { kind: 'octaves' };
  const change = (next: readonly number[]) =>
    studio.editor.preview(
      { type: 'insert.set', id: insert.id, values: { decayOctaves: writeOctaves(next) } },
      'Reverb: decay by octave',
    );
  return (
    <div className="room-picture">
      <div className="room-decay">
        <DecayColumns
          measured={room}
          decay={Number(values.decay)}
          factors={factors}
          range={setting}
          sampleRateHz={sampleRateHz}
          height={212}
          onChange={change}
          onSettle={() => studio.editor.settle()}
          onCancel={() => studio.editor.abandon()}
        />
        <p className="chart-key">
          <i className="key-wash" /> measured <i className="key-bracket" /> target: drag it or type over its figure
        </p>
        <WetSpectrogram insert={insert} />
        <QualityLoads key={insert.id} insert={insert} />
      </div>
      <div className="room-side">
        <RoomPlan insert={insert} />
        <RoomFigures room={room} busy={busy} />
        <div className="picture-choice" role="group" aria-label="Solo">
          <span>Solo</span>
          {PARTS.map(([id, name]) => (
            <Button
              bsPrefix="bare"
              key={id}
              aria-pressed={values.listen === id}
              onClick={() =>
                studio.editor.perform(
                  { type: 'insert.set', id: insert.id, values: { listen: id } },
                  `Reverb: solo ${name}`,
                )
              }
            >
              {name}
            </Button>
          ))}
        </div>
      </div>
    </div>
  );
}

function MatchButton({ insert }: { readonly insert: Insert }) {
  const [matching, setMatching] = useState(false);
  return (
    <>
      <Button variant="line" title="Sets the reverb by an impulse, octave by octave" onClick={() => setMatching(true)}>
        Match to an impulse
      </Button>
      {matching && <RoomMatcher insertId={insert.id} onHide={() => setMatching(false)} />}
    </>
  );
}

export const reverbView: EffectExtras = {
  Tools: MatchButton,
  Picture: RoomPicture,
  pictureName: 'Room',
  parts: [
    { name: 'early', values: { listen: 'early', mix: 100 } },
    { name: 'tail', values: { listen: 'late', mix: 100 } },
  ],
  shows: (id) =>
    ['decayOctaves', 'listen', 'sourceAcross', 'sourceAlong', 'listenerAcross', 'listenerAlong'].includes(id),
  withoutHistory: true,
};
