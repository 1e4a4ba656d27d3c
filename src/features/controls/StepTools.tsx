'use client';

import { useRef } from 'react';
import { findEffect } from '@/core/effects/registry';
import type { ChoiceParameter, ToggleParameter } from '@/core/effects/spec';
import { useStudio, useStudioState } from '../session/StudioContext';
import { useAttached } from '../session/useRecords';
import { LaneButton } from './LaneButton';
import { ModulationButton } from './ModulationButton';
import { writeText } from '../ui/drawn';
import { useFrame } from '../ui/useFrame';

interface Props {
  /** The insert, strip, send or clip. */
  readonly ownerId: string;
  readonly parameter: ToggleParameter | ChoiceParameter;
  readonly name: string;
}

/** Lane and modulation buttons of a switch or a choice, with its modulated value now. */
export function StepTools({ ownerId, parameter, name }: Props) {
  const onEffect = useStudioState(({ document }) => document.inserts[ownerId] !== undefined);
  return (
    <>
      {onEffect && <MovedNow insertId={ownerId} parameter={parameter} />}
      {onEffect && <ModulationButton insertId={ownerId} parameter={parameter} label={name} />}
      <LaneButton ownerId={ownerId} parameter={parameter} name={name} />
    </>
  );
}

/** Modulated value of a switch or a choice, at display rate. */
function MovedNow({ insertId, parameter }: { insertId: string; parameter: ToggleParameter | ChoiceParameter }) {
  const studio = useStudio();
  const moved = (useAttached(insertId, parameter.id) ?? []).length > 0;
  const effect = useStudioState(({ document }) => document.inserts[insertId]?.effect);
  const word = useRef<HTMLElement>(null);
  useFrame(() => {
    if (!word.current) return;
    const index = findEffect(effect ?? '')?.parameters.findIndex(({ id }) => id === parameter.id) ?? -1;
    const now = studio.engine.movedValue(insertId, index);
    writeText(word.current, now === null ? '' : wordFor(parameter, now));
  });
  return moved ? <small ref={word} className="moved-now" data-testid="moved-now" /> : null;
}

function wordFor(parameter: ToggleParameter | ChoiceParameter, value: number): string {
  if (parameter.kind === 'toggle') return value >= 0.5 ? 'on' : 'off';
  return parameter.choices[Math.round(value)]?.name ?? '';
}
