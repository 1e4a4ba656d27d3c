'use client';

import Form from 'react-bootstrap/Form';
import type { ToggleParameter } from '@/core/effects/spec';
import { setValueOf } from '@/core/session/lanes';
import { useStudio, useStudioState } from '../session/StudioContext';
import { StepTools } from './StepTools';

interface Props {
  /** The insert, strip or send. */
  readonly ownerId: string;
  readonly parameter: ToggleParameter;
  /** Name of its owner, for the label of the step. */
  readonly ownerName: string;
  readonly name: string;
  /** Without its word: it stands beside what it switches. */
  readonly bare?: boolean;
}

/** A switch on the document, with its lane. */
export function AutomatedSwitch({ ownerId, parameter, ownerName, name, bare }: Props) {
  const studio = useStudio();
  const value = useStudioState(({ document }) => setValueOf(document, ownerId, parameter));
  return (
    <div className="stepped">
      <label className="switch" data-help={parameter.help}>
        <Form.Check.Input
          type="checkbox"
          role="switch"
          aria-label={name}
          checked={value === true}
          onChange={(event) =>
            studio.controls.turnOnce(ownerId, parameter, event.target.checked, `${ownerName}: ${parameter.name}`)
          }
        />
        {!bare && <span>{parameter.name}</span>}
      </label>
      <StepTools ownerId={ownerId} parameter={parameter} name={name} />
    </div>
  );
}
