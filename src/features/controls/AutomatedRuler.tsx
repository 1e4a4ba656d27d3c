'use client';

import { memo } from 'react';
import { findEffect } from '@/core/effects/registry';
import type { NumberParameter, Parameter } from '@/core/effects/spec';
import { heightAt, setValueOf } from '@/core/session/lanes';
import { useCorners } from '../session/laneCorners';
import { reachOfAttached } from '../session/modulating';
import { newId } from '../session/newId';
import { useStudio, useStudioState } from '../session/StudioContext';
import { useAttached, useLane, useTiming } from '../session/useRecords';
import { ModulationButton } from './ModulationButton';
import { Ruler, type RulerAutomation, type RulerModulation } from '../ui/Ruler';

interface Props {
  /** The insert, strip, send or clip. */
  readonly ownerId: string;
  readonly parameter: NumberParameter;
  /** Name of its owner, for the label of the step. */
  readonly ownerName: string;
  readonly signal: 'dry' | 'wet' | 'key';
  readonly context?: string;
}

/** A ruler on the document: it moves its parameter, shows what a lane does with it, and offers a lane. */
export const AutomatedRuler = memo(function AutomatedRuler(props: Props) {
  const { ownerId, parameter, ownerName, signal, context } = props;
  const studio = useStudio();
  const value = useStudioState(({ document }) => setValueOf(document, ownerId, parameter));
  const timing = useTiming();
  const automation = useAutomation(ownerId, parameter);
  const modulation = useModulation(ownerId, parameter, context ? `${context} ${parameter.name}` : parameter.name);
  return (
    <Ruler
      parameter={parameter}
      value={value}
      timing={timing}
      signal={signal}
      automation={automation}
      {...(modulation ? { modulation } : {})}
      {...(context ? { context } : {})}
      onPreview={(next) => studio.controls.turn(ownerId, parameter, next, `${ownerName}: ${parameter.name}`)}
      onSettle={() => studio.editor.settle()}
      onCancel={() => studio.editor.abandon()}
    />
  );
});

/** Modulation of a parameter of an effect; null for other parameters. */
function useModulation(ownerId: string, parameter: NumberParameter, label: string): RulerModulation | null {
  const studio = useStudio();
  const attached = useAttached(ownerId, parameter.id);
  if (!attached) return null;
  return {
    reach: attached.length > 0 ? reachOfAttached(attached) : null,
    now: () => {
      const { effect } = studio.state.document.inserts[ownerId]!;
      return studio.engine.movedValue(
        ownerId,
        findEffect(effect)!.parameters.findIndex(({ id }) => id === parameter.id),
      );
    },
    button: <ModulationButton insertId={ownerId} parameter={parameter} label={label} />,
  };
}

/** State of a parameter's lane, and a press that makes or opens it. */
export function useAutomation(ownerId: string, parameter: Parameter): RulerAutomation {
  const studio = useStudio();
  const lane = useLane(ownerId, parameter.id);
  const corners = useCorners(lane);
  const heights = corners.map((corner) => corner.height);
  return {
    state: lane === undefined ? 'none' : lane.on ? 'on' : 'off',
    range: heights.length > 0 ? [Math.min(...heights), Math.max(...heights)] : null,
    now: () => heightAt(corners, studio.transport.heardBeat),
    press: () => {
      if (lane && !lane.on) {
        studio.editor.perform(
          { type: 'lane.set', id: lane.id, values: { on: true } },
          `Resume the lane of ${parameter.name}`,
        );
        return;
      }
      const id = lane?.id ?? newId();
      if (!lane) studio.controls.addLane(id, ownerId, parameter);
      studio.selection.goToLane(id);
    },
  };
}
