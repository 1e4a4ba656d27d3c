'use client';

import { useMemo } from 'react';
import type { Timing } from '@/core/effects/noteValues';
import { findEffect } from '@/core/effects/registry';
import type { NumberParameter, Parameter } from '@/core/effects/spec';
import { cornersOf, heightAt, laneOf, setValueOf, type Corner } from '@/core/session/lanes';
import type { Lane, SessionDocument } from '@/core/session/records';
import { timingOf } from '@/core/session/records';
import { newId } from '../session/studio';
import { useStudio, useStudioState } from '../session/StudioContext';
import { attachedTo, reachOfAttached } from '../session/modulating';
import { ModulationButton } from './ModulationButton';
import { Ruler, type RulerAutomation, type RulerModulation } from './Ruler';

interface Props {
  /** The insert, strip, send or clip. */
  readonly ownerId: string;
  readonly parameter: NumberParameter;
  /** What it belongs to, for the name of the step. */
  readonly ownerName: string;
  readonly signal: 'dry' | 'wet' | 'key';
  readonly context?: string;
}

/** A ruler on the document: it moves its parameter, shows what a lane does with it, and offers a lane. */
export function AutomatedRuler({ ownerId, parameter, ownerName, signal, context }: Props) {
  const studio = useStudio();
  const value = useStudioState(({ document }) => setValueOf(document, ownerId, parameter));
  const timing = useStudioState(({ document }) => timingOf(document));
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
      onPreview={(next) => studio.turn(ownerId, parameter, next, `${ownerName}: ${parameter.name}`)}
      onSettle={() => studio.settle()}
    />
  );
}

/** What modulators do with a parameter of an effect; other parameters are not moved by any. */
function useModulation(ownerId: string, parameter: NumberParameter, label: string): RulerModulation | null {
  const studio = useStudio();
  const document = useStudioState(({ document }) => document);
  const insert = document.inserts[ownerId];
  if (!insert) return null;
  const attached = attachedTo(document, ownerId, parameter.id);
  const index = findEffect(insert.effect)!.parameters.findIndex(({ id }) => id === parameter.id);
  return {
    reach: attached.length > 0 ? reachOfAttached(attached) : null,
    now: () => studio.engine.movedValue(ownerId, index),
    button: <ModulationButton insertId={ownerId} parameter={parameter} label={label} />,
  };
}

/** What a control needs to know of its lane, and to make one. */
export function useAutomation(ownerId: string, parameter: Parameter): RulerAutomation {
  const studio = useStudio();
  const document = useStudioState(({ document }) => document);
  const lane = laneOf(document, ownerId, parameter.id);
  const timing = timingOf(document);
  const corners = useCorners(document, lane, timing);
  const heights = corners.map((corner) => corner.height);
  return {
    state: lane === undefined ? 'none' : lane.on ? 'on' : 'off',
    range: heights.length > 0 ? [Math.min(...heights), Math.max(...heights)] : null,
    now: () => heightAt(corners, studio.heardBeat),
    press: () => {
      if (lane && !lane.on) {
        studio.perform(
          { type: 'lane.set', id: lane.id, values: { on: true } },
          `Give ${parameter.name} back to its lane`,
        );
        return;
      }
      const id = lane?.id ?? newId();
      if (!lane) studio.addLane(id, ownerId, parameter);
      studio.openLane(id);
    },
  };
}

function useCorners(document: SessionDocument, lane: Lane | undefined, timing: Timing): readonly Corner[] {
  const { tempoBpm, beatsPerBar } = timing;
  return useMemo(
    () => (lane ? cornersOf(document, lane, { tempoBpm, beatsPerBar }) : []),
    [document, lane, tempoBpm, beatsPerBar],
  );
}
