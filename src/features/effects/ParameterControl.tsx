'use client';

import { findEffect } from '@/core/effects/registry';
import type { ChoiceParameter, Parameter, ParameterValue } from '@/core/effects/spec';
import type { Insert } from '@/core/session/records';
import { useStudio } from '../session/StudioContext';
import { AutomatedRuler } from '../ui/AutomatedRuler';
import { AutomatedSwitch } from '../ui/AutomatedSwitch';
import { LaneButton } from '../ui/LaneButton';

interface Props {
  readonly insert: Insert;
  readonly parameter: Parameter;
  /** Set when the name alone would not tell which effect it belongs to. */
  readonly context?: string;
}

/** The control a parameter's description asks for: a ruler, a switch or a choice. */
export function ParameterControl({ insert, parameter, context }: Props) {
  const effect = findEffect(insert.effect)!.name;
  if (parameter.kind === 'number') {
    return (
      <AutomatedRuler
        ownerId={insert.id}
        parameter={parameter}
        ownerName={effect}
        signal="wet"
        {...(context ? { context } : {})}
      />
    );
  }
  if (parameter.kind === 'toggle') {
    return (
      <AutomatedSwitch
        ownerId={insert.id}
        parameter={parameter}
        ownerName={effect}
        name={context ? `${context} ${parameter.name}` : parameter.name}
      />
    );
  }
  return (
    <Choice insert={insert} parameter={parameter} name={context ? `${context} ${parameter.name}` : parameter.name} />
  );
}

function Choice(props: { readonly insert: Insert; readonly parameter: ChoiceParameter; readonly name: string }) {
  const { insert, parameter, name } = props;
  const studio = useStudio();
  const value = insert.values[parameter.id] ?? parameter.default;
  const label = `${findEffect(insert.effect)!.name}: ${parameter.name}`;
  const set = (next: ParameterValue) => studio.turnOnce(insert.id, parameter, next, label);
  return (
    <div className="stepped">
      <label className="choice" title={parameter.help}>
        <span>{parameter.name}</span>
        <select aria-label={name} value={String(value)} onChange={(event) => set(event.target.value)}>
          {parameter.choices.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </select>
      </label>
      <LaneButton ownerId={insert.id} parameter={parameter} name={name} />
    </div>
  );
}
