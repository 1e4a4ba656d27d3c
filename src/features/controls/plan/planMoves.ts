import type { KeyboardEvent } from 'react';
import type { Move } from '../../session/staging';
import { fromPlan, pointOnPlan, wrapped } from './geometry';

/** Degrees that things snap to. */
export const SNAP = 15;
const TURN = 5;
const FINE_TURN = 1;
/** Parts of a doubling that a key moves a thing away by. */
const AWAY = 1 / 4;
const FINE_AWAY = 1 / 16;
const LIFT_METRES = 0.5;

type Client = Parameters<typeof pointOnPlan>[1];

/** Direction and distance of a pointer on the plan. */
export const polarOf = (plan: SVGSVGElement, at: Client) => fromPlan(pointOnPlan(plan, at));

/** The move from where a pointer was to where it is. */
export function moveBetween(from: ReturnType<typeof fromPlan>, to: ReturnType<typeof fromPlan>): Move {
  return { turn: wrapped(to.azimuth - from.azimuth), times: to.distance / from.distance };
}

/**
 * The move that a key makes: arrows turn and move away or near, Page up and Page down lift and lower; finer with Shift.
 * @returns undefined for other keys
 */
export function moveOfKey({ key, shiftKey }: Pick<KeyboardEvent, 'key' | 'shiftKey'>, snap: boolean): Move | undefined {
  const turn = snap ? SNAP : shiftKey ? FINE_TURN : TURN;
  const times = 2 ** (shiftKey ? FINE_AWAY : AWAY);
  const moves: Readonly<Record<string, Move>> = {
    ArrowRight: { turn },
    ArrowLeft: { turn: -turn },
    ArrowUp: { times },
    ArrowDown: { times: 1 / times },
    PageUp: { lift: LIFT_METRES },
    PageDown: { lift: -LIFT_METRES },
  };
  return moves[key];
}
