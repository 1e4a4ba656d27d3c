'use client';

import Form from 'react-bootstrap/Form';
import type { InputSpec } from '@/core/effects/spec';
import { channels } from '@/core/session/records/queries';
import type { InsertInput } from '@/core/session/records/inserts';
import type { Strip } from '@/core/session/records/strips';
import { connectionsOf, reachOf } from '@/core/session/routing';
import { useStudio, useStudioState } from '../../session/StudioContext';

interface Props {
  readonly input: InputSpec;
  readonly insertId: string;
  readonly strip: Strip;
  readonly context: string;
}

const OWN = 'own';

/** Choice of a side chain: an effect's own input or another track, before or after its fader. */
export function InputChoice({ input, insertId, strip, context }: Props) {
  const studio = useStudio();
  const now = useStudioState(({ document }) => document.inserts[insertId]!.inputs[input.id]);
  const offered = useStudioState(({ document }) => {
    // Strips that this one feeds cannot be its key: the sound would go in a circle.
    const fed = reachOf(new Set([strip.id]), connectionsOf(document), false);
    return channels(document).filter((one) => !fed.has(one.id));
  });
  return (
    <label className={`choice key-choice ${now ? 'key-choice-on' : ''}`}>
      <span>{input.name}</span>
      <Form.Select
        aria-label={`${context} ${input.name.toLowerCase()}`}
        data-help={input.help}
        value={now ? `${now.tap} ${now.stripId}` : OWN}
        onChange={(event) => {
          const [tap, stripId] = event.target.value.split(' ') as [InsertInput['tap'], string | undefined];
          const from = stripId === undefined ? null : { stripId, tap };
          studio.editor.perform(
            { type: 'insert.input', id: insertId, slot: input.id, from },
            `${input.name} of ${context}`,
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
      </Form.Select>
    </label>
  );
}
