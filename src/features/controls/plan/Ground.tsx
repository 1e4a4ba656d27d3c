'use client';

import { memo } from 'react';
import { PLAN, radiusOf, RINGS } from './geometry';

const DIRECTIONS = [
  [0, 'ahead'],
  [90, 'right'],
  [180, 'behind'],
  [-90, 'left'],
] as const;

/** Rings by distance, directions, and the listener in the middle. */
export const Ground = memo(function Ground() {
  return (
    <g className="plan-rings" aria-hidden="true">
      {RINGS.map((metres, n) => (
        <circle key={metres} r={radiusOf(metres)} className={n % 2 ? 'plan-ring' : 'plan-ring plan-ring-between'} />
      ))}
      {Array.from({ length: 24 }, (_, n) => n * 15).map((degrees) => (
        <line
          key={degrees}
          y1={-PLAN}
          y2={-PLAN - (degrees % 45 === 0 ? 9 : 5)}
          transform={`rotate(${degrees})`}
          className="plan-tick"
        />
      ))}
      {RINGS.map((metres) => (
        <text key={metres} x={4} y={-radiusOf(metres) - 3}>
          {metres} m
        </text>
      ))}
      {DIRECTIONS.map(([degrees, word]) => {
        const turn = (degrees * Math.PI) / 180;
        return (
          <text
            key={word}
            className="plan-direction"
            x={(PLAN + 34) * Math.sin(turn)}
            y={-(PLAN + 24) * Math.cos(turn) + 4}
            textAnchor="middle"
          >
            {word}
          </text>
        );
      })}
      <path className="plan-listener" d="M-11 6A11 11 0 0 1 11 6M-5 -11L0 -18L5 -11" />
    </g>
  );
});
