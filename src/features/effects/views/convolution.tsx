'use client';

import { SHIPPED_IMPULSES } from '@/core/effects/convolution/impulses/shipped';
import { effectById } from '@/core/effects/registry';
import type { SoundSetting } from '@/core/effects/settings';
import { defaultValues, findSetting } from '@/core/effects/spec';
import type { Insert } from '@/core/session/records';
import { useStudio, useStudioState } from '../../session/StudioContext';
import { CurvePicture } from '../CurvePicture';
import { DecayChart } from '../DecayChart';
import type { EffectExtras } from '../extras';
import { usePicture, useRoom } from '../pictures';
import { RoomFigures } from '../RoomFigures';

const spec = effectById('convolution');
const setting = findSetting(spec, 'impulse') as SoundSetting;
const KINDS = [...new Set(SHIPPED_IMPULSES.map(({ group }) => group))].map(
  (group) => [group, SHIPPED_IMPULSES.filter((one) => one.group === group)] as const,
);
/** What rings for less than this is told by its tone rather than by its decay, in seconds. */
const BRIEF = 0.06;

function Response({ insert }: { readonly insert: Insert }) {
  const picture = usePicture(insert, 'response');
  return <CurvePicture picture={picture} label="Response of the effect, from the engine" height={250} />;
}

/** Impulses by kind, and what the chosen one, as it is edited, measures. */
function ImpulsePicture({ insert }: { readonly insert: Insert }) {
  const studio = useStudio();
  const room = useRoom(insert);
  const values = { ...defaultValues(spec), ...insert.values };
  const sounds = useStudioState(({ document }) =>
    Object.values(document.assets).filter(
      ({ frames, sampleRateHz }) => frames / sampleRateHz <= setting.longestSeconds,
    ),
  );
  const own = sounds.map(({ id, name }) => ({ id, name, about: 'A sound of this session.' }));
  const groups = own.length > 0 ? [...KINDS, ['Sounds of this session', own] as const] : KINDS;
  const chosen = [...SHIPPED_IMPULSES, ...own].find(({ id }) => id === values.impulse);
  const brief = room !== null && room.t30 !== null && room.t30 < BRIEF;
  const choose = (id: string, name: string) =>
    studio.perform({ type: 'insert.set', id: insert.id, values: { impulse: id } }, `Convolution: ${name}`);
  return (
    <div className="room-picture">
      <div className="impulse-list" role="group" aria-label="Impulses">
        {groups.map(([group, impulses]) => (
          <div key={group} role="group" aria-label={group}>
            <h4>{group}</h4>
            {impulses.map(({ id, name, about }) => (
              <button
                key={id}
                type="button"
                aria-pressed={id === values.impulse}
                title={about}
                onClick={() => choose(id, name)}
              >
                {name}
              </button>
            ))}
          </div>
        ))}
      </div>
      <div className="room-decay">
        <p className="impulse-about">
          <strong>{chosen?.name}</strong> {chosen?.about}
        </p>
        {brief ? <Response insert={insert} /> : <DecayChart measured={room} wish={null} height={196} />}
        <RoomFigures room={room} />
      </div>
    </div>
  );
}

export const convolutionView: EffectExtras = {
  Picture: ImpulsePicture,
  pictureName: 'Place',
  shows: (id) => id === 'impulse',
};
