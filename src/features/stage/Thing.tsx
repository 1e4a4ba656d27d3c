'use client';

import type { KeyboardEvent, PointerEvent } from 'react';
import type { Spot } from '@/core/effects/place/motion';
import type { Return, Track } from '@/core/session/records/strips';
import { placeWords, type LabelPlace } from './geometry';

/** Height of a stem for a metre. */
const STEM = 9;

interface Props {
  readonly strip: Track | Return;
  readonly spot: Spot;
  readonly label: LabelPlace;
  readonly signal: 'dry' | 'wet';
  readonly isGroup: boolean;
  readonly isChosen: boolean;
  /** Takes the element, which is moved at every frame. */
  readonly mark: (element: SVGGElement | null) => void;
  readonly onPointerDown: (event: PointerEvent<Element>) => void;
  readonly onKeyDown: (event: KeyboardEvent) => void;
}

/** A thing on the stage: its mark, the stem of its height, and its name. */
export function Thing({ strip, spot, label, signal, isGroup, isChosen, mark, onPointerDown, onKeyDown }: Props) {
  const stem = spot.z * STEM;
  return (
    <g
      ref={mark}
      role="button"
      tabIndex={0}
      aria-label={`${strip.name}, ${placeWords(spot)}`}
      aria-pressed={isChosen}
      className={`thing plan-${signal} ${isChosen ? 'thing-chosen' : ''} ${strip.mute ? 'thing-mute' : ''}`}
      onPointerDown={onPointerDown}
      onKeyDown={onKeyDown}
    >
      <title>{`${strip.name}, ${placeWords(spot)}`}</title>
      {Math.abs(stem) > 0.5 && (
        <>
          <line className="thing-stem" y1={0} y2={-stem} />
          <line className="thing-stem" x1={-5} x2={5} y1={-stem} y2={-stem} />
          <text className="thing-height" x={8} y={-stem + 4}>
            {`${spot.z > 0 ? '+' : '−'}${Math.abs(spot.z).toFixed(1)} m`}
          </text>
        </>
      )}
      <circle className="thing-grasp" r={16} />
      <circle className="thing-mark" r={9} />
      {isGroup && <circle className="thing-mark" r={5} />}
      <text className="thing-name" x={label.dx} y={label.dy} textAnchor={label.anchor}>
        {strip.name}
      </text>
    </g>
  );
}
