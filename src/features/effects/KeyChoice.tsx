'use client';

import { channels, type Insert, type Strip } from '@/core/session/records';
import { connectionsOf, reachOf } from '@/core/session/routing';
import { useStudio, useStudioState } from '../session/StudioContext';

interface Props {
  readonly insert: Insert;
  readonly strip: Strip;
  readonly context: string;
}

const OWN = 'own';

/** Whose level steers an effect: its own input or another track, before or after that one's fader. */
export function KeyChoice({ insert, strip, context }: Props) {
  const studio = useStudio();
  const document = useStudioState(({ document }) => document);
  // What this strip feeds cannot steer it: the sound would go in a circle.
  const fed = reachOf(new Set([strip.id]), connectionsOf(document), false);
  const offered = channels(document).filter((one) => !fed.has(one.id));
  const value = insert.keyId === null ? OWN : `${insert.keyTap} ${insert.keyId}`;
  return (
    <label className={`choice key-choice ${insert.keyId === null ? '' : 'key-choice-on'}`}>
      <span>Key</span>
      <select
        aria-label={`${context} key`}
        title="The sound whose level steers this effect"
        value={value}
        onChange={(event) => {
          const [tap, id] = event.target.value.split(' ') as ['beforeFader' | 'afterFader', string | undefined];
          studio.perform(
            id === undefined
              ? { type: 'insert.key', id: insert.id, keyId: null, keyTap: 'beforeFader' }
              : { type: 'insert.key', id: insert.id, keyId: id, keyTap: tap },
            `Key of ${context}`,
          );
        }}
      >
        <option value={OWN}>own input: what comes in here</option>
        {offered.map((one) => (
          <optgroup key={one.id} label={one.name}>
            <option value={`beforeFader ${one.id}`}>{one.name}, before fader: the same however it is mixed</option>
            <option value={`afterFader ${one.id}`}>{one.name}, after fader: follows fader and mute</option>
          </optgroup>
        ))}
      </select>
    </label>
  );
}
