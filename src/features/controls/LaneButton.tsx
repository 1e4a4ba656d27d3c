'use client';

import { Spline } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import type { Parameter } from '@/core/effects/spec';
import { useAutomation } from './AutomatedRuler';
import { LANE_HELP, LANE_WORDS } from '../ui/Ruler';

/** Automates a switch or a choice, opens its lane, or gives it back to it. */
export function LaneButton({ ownerId, parameter, name }: { ownerId: string; parameter: Parameter; name: string }) {
  const { state, press } = useAutomation(ownerId, parameter);
  return (
    <Button
      bsPrefix="bare"
      className={`ruler-lane ruler-lane-${state}`}
      aria-label={`${name}: ${LANE_WORDS[state]}`}
      data-help={LANE_HELP[state]}
      onClick={press}
    >
      <Spline size={11} aria-hidden="true" />
    </Button>
  );
}
