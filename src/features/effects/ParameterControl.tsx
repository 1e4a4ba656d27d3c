'use client';

import { findEffect } from '@/core/effects/registry';
import { findParameter, type ChoiceParameter, type ParameterValue } from '@/core/effects/spec';
import type { Insert } from '@/core/session/records';
import { useStudio } from '../session/StudioContext';
import { AutomatedRuler } from '../ui/AutomatedRuler';
import { AutomatedSwitch } from '../ui/AutomatedSwitch';
import { StepTools } from '../ui/StepTools';
import type { Control } from './columns';
import { SettingControl } from './SettingControl';

interface Props {
  readonly insert: Insert;
  readonly parameter: Control;
  /** Set when the name alone would not tell which effect it belongs to. */
  readonly context?: string;
}

/** The control that a description asks for: a ruler, a switch, a choice, or a field for what cannot be moved. */
export function ParameterControl({ insert, parameter, context }: Props) {
  const spec = findEffect(insert.effect)!;
  if (parameter.kind === 'number') {
    const own = parameter.switchedBy === undefined ? undefined : findParameter(spec, parameter.switchedBy);
    const ruler = (
      <AutomatedRuler
        ownerId={insert.id}
        parameter={parameter}
        ownerName={spec.name}
        signal="wet"
        {...(context ? { context } : {})}
      />
    );
    if (own?.kind !== 'toggle') return ruler;
    return (
      <div className={`switched ${insert.values[own.id] === false ? 'switched-off' : ''}`}>
        <AutomatedSwitch ownerId={insert.id} parameter={own} ownerName={spec.name} name={own.name} bare />
        {ruler}
      </div>
    );
  }
  if (parameter.kind === 'toggle') {
    return (
      <AutomatedSwitch
        ownerId={insert.id}
        parameter={parameter}
        ownerName={spec.name}
        name={context ? `${context} ${parameter.name}` : parameter.name}
      />
    );
  }
  if (parameter.kind !== 'choice') return <SettingControl insert={insert} setting={parameter} />;
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
      <StepTools ownerId={insert.id} parameter={parameter} name={name} />
    </div>
  );
}
