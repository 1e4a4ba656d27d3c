'use client';

import type { KeyboardEvent, PointerEvent } from 'react';
import type { Spot } from '@/core/effects/place/motion';
import { LEAST_STEM, placeWords, STEM, type LabelPlace } from './geometry';

interface Props {
  readonly name: string;
  readonly spot: Spot;
  /** Position of its name; null hides it. */
  readonly label: LabelPlace | null;
  readonly signal: 'dry' | 'wet';
  readonly isGroup: boolean;
  readonly isChosen: boolean;
  readonly isMute: boolean;
  /** Takes the element, which is moved at every frame. */
  readonly mark: (element: SVGGElement | null) => void;
  readonly onPointerDown: (event: PointerEvent<Element>) => void;
  readonly onKeyDown: (event: KeyboardEvent) => void;
}

/** A thing on the stage: its mark, the stem of its height, and its name. */
export function Thing(props: Props) {
  const { name, spot, label, signal, isGroup, isChosen, isMute, mark, onPointerDown, onKeyDown } = props;
  const stem = spot.z * STEM;
  return (
    <g
      ref={mark}
      role="button"
      tabIndex={0}
      aria-label={`${name}, ${placeWords(spot)}`}
      aria-pressed={isChosen}
      className={`thing plan-${signal} ${isChosen ? 'thing-chosen' : ''} ${isMute ? 'thing-mute' : ''}`}
      onPointerDown={onPointerDown}
      onKeyDown={onKeyDown}
    >
      <title>{`${name}, ${placeWords(spot)}`}</title>
      {Math.abs(stem) >= LEAST_STEM && (
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
      <text
        className={`thing-name ${label ? '' : 'thing-name-no-room'}`}
        x={label?.dx ?? 0}
        y={label?.dy ?? -18}
        textAnchor={label?.anchor ?? 'middle'}
      >
        {name}
      </text>
    </g>
  );
}
