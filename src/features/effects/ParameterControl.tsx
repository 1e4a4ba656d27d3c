'use client';

import { memo } from 'react';
import Form from 'react-bootstrap/Form';
import { findEffect } from '@/core/effects/registry';
import { findParameter, type ChoiceParameter, type Control, type ParameterValue } from '@/core/effects/spec';
import { setValueOf } from '@/core/session/lanes';
import { useStudio, useStudioState } from '../session/StudioContext';
import { AutomatedRuler } from '../controls/AutomatedRuler';
import { AutomatedSwitch } from '../controls/AutomatedSwitch';
import { StepTools } from '../controls/StepTools';
import { SettingControl } from './SettingControl';

interface Props {
  readonly insertId: string;
  readonly parameter: Control;
  /** Set when the name alone would not tell which effect it belongs to. */
  readonly context?: string;
}

/** The control that a description asks for: a ruler, a switch, a choice, or a field for what cannot be moved. */
export const ParameterControl = memo(function ParameterControl({ insertId, parameter, context }: Props) {
  const effect = useStudioState(({ document }) => document.inserts[insertId]?.effect);
  const spec = findEffect(effect ?? '');
  if (!spec) return null;
  const name = context ? `${context} ${parameter.name}` : parameter.name;
  if (parameter.kind === 'number') {
    const own = parameter.switchedBy === undefined ? undefined : findParameter(spec, parameter.switchedBy);
    const ruler = (
      <AutomatedRuler
        ownerId={insertId}
        parameter={parameter}
        ownerName={spec.name}
        signal="wet"
        {...(context ? { context } : {})}
      />
    );
    if (own?.kind !== 'toggle') return ruler;
    return (
      <Switched insertId={insertId} switchId={own.id}>
        <AutomatedSwitch ownerId={insertId} parameter={own} ownerName={spec.name} name={own.name} bare />
        {ruler}
      </Switched>
    );
  }
  if (parameter.kind === 'toggle') {
    return <AutomatedSwitch ownerId={insertId} parameter={parameter} ownerName={spec.name} name={name} />;
  }
  if (parameter.kind !== 'choice') return <SettingControl insertId={insertId} setting={parameter} />;
  return <Choice insertId={insertId} parameter={parameter} name={name} effectName={spec.name} />;
});

/** A control beside the switch that it works with. */
function Switched(props: { readonly insertId: string; readonly switchId: string; readonly children: React.ReactNode }) {
  const off = useStudioState(({ document }) => document.inserts[props.insertId]?.values[props.switchId] === false);
  return <div className={`switched ${off ? 'switched-off' : ''}`}>{props.children}</div>;
}

function Choice(props: {
  readonly insertId: string;
  readonly parameter: ChoiceParameter;
  readonly name: string;
  readonly effectName: string;
}) {
  const { insertId, parameter, name, effectName } = props;
  const studio = useStudio();
  const value = useStudioState(({ document }) => setValueOf(document, insertId, parameter));
  const set = (next: ParameterValue) =>
    studio.controls.turnOnce(insertId, parameter, next, `${effectName}: ${parameter.name}`);
  return (
    <div className="stepped">
      <label className="choice" data-help={parameter.help}>
        <span>{parameter.name}</span>
        <Form.Select aria-label={name} value={String(value)} onChange={(event) => set(event.target.value)}>
          {parameter.choices.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </Form.Select>
      </label>
      <StepTools ownerId={insertId} parameter={parameter} name={name} />
    </div>
  );
}
