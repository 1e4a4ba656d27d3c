'use client';

import { findEffect } from '@/core/effects/registry';
import type { Timing } from '@/core/effects/noteValues';
import type { Parameter, ParameterValue } from '@/core/effects/spec';
import type { Insert } from '@/core/session/records';
import { useStudio } from '../session/StudioContext';
import { Ruler } from '../ui/Ruler';

interface Props {
  readonly insert: Insert;
  readonly parameter: Parameter;
  readonly timing: Timing;
  /** Set when the name alone would not tell which effect it belongs to. */
  readonly context?: string;
}

/** The control a parameter's description asks for: a ruler, a switch or a choice. */
export function ParameterControl({ insert, parameter, timing, context }: Props) {
  const studio = useStudio();
  const value = insert.values[parameter.id] ?? parameter.default;
  const effect = findEffect(insert.effect)!.name;
  const label = `${effect}: ${parameter.name}`;
  const command = (next: ParameterValue) => ({
    type: 'insert.set' as const,
    id: insert.id,
    values: { [parameter.id]: next },
  });
  const set = (next: ParameterValue) => studio.perform(command(next), label);
  const name = context ? `${context} ${parameter.name}` : parameter.name;
  switch (parameter.kind) {
    case 'number':
      return (
        <Ruler
          parameter={parameter}
          value={value}
          timing={timing}
          signal="wet"
          {...(context ? { context } : {})}
          onPreview={(next) => studio.preview(command(next), label)}
          onSettle={() => studio.settle()}
        />
      );
    case 'toggle':
      return (
        <label className="switch" title={parameter.help}>
          <input
            type="checkbox"
            role="switch"
            aria-label={name}
            checked={value === true}
            onChange={(event) => set(event.target.checked)}
          />
          <span>{parameter.name}</span>
        </label>
      );
    case 'choice':
      return (
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
      );
  }
}
