'use client';

import { useRef, type RefObject } from 'react';
import type { Spot } from '@/core/effects/place/motion';
import type { Return, Track } from '@/core/session/records/strips';
import { useFrame } from '../ui/useFrame';
import { clearedCanvas } from '../ui/clearedCanvas';
import { PLAN, toPlan, VIEW } from '../controls/plan/geometry';

type Thing = Track | Return;

interface Props {
  readonly things: readonly Thing[];
  /** Current positions of things, by id. */
  readonly spots: RefObject<ReadonlyMap<string, Spot>>;
  readonly signalOf: (strip: Thing) => 'dry' | 'wet';
  readonly levelOf: (stripId: string) => { readonly left: number; readonly right: number };
  readonly barSeconds: number;
}

const SECTORS = 24;
/** Width of the shade around the plan at 0 dBFS, and the level at which it begins, in dBFS. */
const SHADE = 15;
const SHADE_FLOOR_DB = -54;
/** Part of a shade that is left after a display frame. */
const HELD = 0.93;

interface Step {
  readonly at: number;
  readonly x: number;
  readonly y: number;
}

/** Traces of things over the last bar, and the directions from which most is heard; behind the plan. */
export function Traces({ things, spots, signalOf, levelOf, barSeconds }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const steps = useRef(new Map<string, Step[]>());
  const shades = useRef(new Float64Array(SECTORS));
  useFrame(() => {
    const element = canvas.current;
    if (!element) return;
    const { clientWidth, clientHeight } = element;
    if (clientWidth === 0 || clientHeight === 0) return;
    const context = clearedCanvas(element, clientWidth, clientHeight);
    const scale = Math.min(clientWidth / VIEW.width, clientHeight / VIEW.height);
    context.translate(
      clientWidth / 2 - scale * (VIEW.left + VIEW.width / 2),
      clientHeight / 2 - scale * (VIEW.top + VIEW.height / 2),
    );
    context.scale(scale, scale);
    const now = performance.now() / 1000;
    const style = getComputedStyle(element);
    const powers = new Float64Array(SECTORS);
    for (const strip of things) {
      const spot = spots.current.get(strip.id);
      if (!spot) continue;
      const { x, y } = toPlan(spot);
      const trace = (steps.current.get(strip.id) ?? []).filter(({ at }) => now - at < barSeconds);
      const last = trace.at(-1);
      if (!last || Math.hypot(last.x - x, last.y - y) > 1.5) trace.push({ at: now, x, y });
      steps.current.set(strip.id, trace);
      context.fillStyle = style.getPropertyValue(`--${signalOf(strip)}`);
      for (const step of trace.slice(0, -1)) {
        const age = (now - step.at) / barSeconds;
        context.globalAlpha = 0.45 * (1 - age);
        context.beginPath();
        context.arc(step.x, step.y, 1.2 + 2.2 * (1 - age), 0, 2 * Math.PI);
        context.fill();
      }
      const { left, right } = levelOf(strip.id);
      const turn = Math.atan2(spot.x, spot.y) / (2 * Math.PI);
      const sector = Math.round((turn - Math.floor(turn)) * SECTORS) % SECTORS;
      powers[sector]! += left * left + right * right;
    }
    context.fillStyle = style.getPropertyValue('--ink');
    powers.forEach((power, n) => {
      const db = 10 * Math.log10(power + 1e-12);
      const level = Math.max(0, 1 - db / SHADE_FLOOR_DB);
      const shade = (shades.current[n] = Math.max(level, HELD * shades.current[n]!));
      if (shade < 0.01) return;
      const middle = (2 * Math.PI * n) / SECTORS - Math.PI / 2;
      const half = Math.PI / SECTORS - 0.012;
      context.globalAlpha = 0.12 + 0.4 * shade;
      context.beginPath();
      context.arc(0, 0, PLAN + 1, middle - half, middle + half);
      context.arc(0, 0, PLAN + 1 + SHADE * shade, middle + half, middle - half, true);
      context.fill();
    });
    context.globalAlpha = 1;
  });
  return (
    <canvas
      ref={canvas}
      className="plan-traces"
      role="img"
      aria-label="Where things have been over the last bar, and from where most is heard"
    />
  );
}
