'use client';

import type { Feeds } from '@/core/effects/delay/routing';

interface Props {
  readonly feeds: Feeds;
  /** Lines in use, from 0. */
  readonly used: readonly number[];
  readonly feedback: (line: number) => number;
}

const WIDTH = 300;
const HEIGHT = 150;
const RADIUS = 12;

/** Lines that sound passes before it reaches a line; lines that nothing reaches come first. */
function depths(feeds: Feeds, used: readonly number[]): Map<number, number> {
  const depth = new Map<number, number>(used.filter((line) => feeds.input[line] !== 0).map((line) => [line, 0]));
  for (let round = 0; round < used.length; round++) {
    for (const target of used) {
      if (depth.has(target)) continue;
      const before = used.filter((source) => feeds.lines[target]![source] !== 0 && depth.has(source));
      if (before.length > 0) depth.set(target, 1 + Math.min(...before.map((source) => depth.get(source)!)));
    }
  }
  for (const line of used) if (!depth.has(line)) depth.set(line, 0);
  return depth;
}

/** The way of the sound through the lines, from the input on the left to the output on the right. */
export function DelayFlow({ feeds, used, feedback }: Props) {
  const depth = depths(feeds, used);
  const columns = Math.max(0, ...depth.values()) + 1;
  const inColumn = (column: number) => used.filter((line) => depth.get(line) === column);
  const place = new Map(
    used.map((line) => {
      const column = depth.get(line)!;
      const mates = inColumn(column);
      const x = 56 + ((column + 0.5) / columns) * (WIDTH - 112);
      const y = ((mates.indexOf(line) + 0.5) / mates.length) * (HEIGHT - 16) + 8;
      return [line, { x, y }] as const;
    }),
  );
  const middle = HEIGHT / 2;
  const width = (gain: number) => 0.8 + 2.2 * Math.min(1, Math.abs(gain));
  const curve = (from: { x: number; y: number }, to: { x: number; y: number }) => {
    const ahead = to.x > from.x + 1;
    const bend = ahead ? (to.x - from.x) / 2 : 0;
    if (ahead) return `M${from.x} ${from.y}C${from.x + bend} ${from.y} ${to.x - bend} ${to.y} ${to.x} ${to.y}`;
    // Back to an earlier line: above everything.
    const top = Math.min(from.y, to.y) - 56;
    return `M${from.x} ${from.y - RADIUS}C${from.x} ${top} ${to.x} ${top} ${to.x} ${to.y - RADIUS}`;
  };
  const lines = used.flatMap((target) =>
    used
      .filter((source) => source !== target && feeds.lines[target]![source] !== 0)
      .map((source) => ({ source, target })),
  );
  return (
    <svg
      className="delay-flow"
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={describe(feeds, used, feedback)}
    >
      <defs>
        <marker
          id="flow-tip"
          viewBox="0 0 8 8"
          refX="7"
          refY="4"
          markerWidth="5"
          markerHeight="5"
          orient="auto"
          markerUnits="userSpaceOnUse"
        >
          <path d="M0 0L8 4L0 8z" />
        </marker>
      </defs>
      <text x="4" y={middle + 4}>
        input
      </text>
      <text x={WIDTH - 4} y={middle + 4} textAnchor="end">
        output
      </text>
      {used.map((line) => {
        const { x, y } = place.get(line)!;
        // Past the lines that follow, below them.
        const inTheWay = used.some(
          (other) => place.get(other)!.x > x + 1 && Math.abs(place.get(other)!.y - y) < RADIUS,
        );
        const end = { x: WIDTH - 42, y: middle };
        const low = y + 34 + 0.12 * (end.x - x);
        return (
          <path
            key={`out${line}`}
            className="flow-out"
            d={
              inTheWay
                ? `M${x} ${y + RADIUS}C${x + 20} ${low} ${end.x - 30} ${low} ${end.x} ${end.y + 4}`
                : curve({ x: x + RADIUS, y }, end)
            }
          />
        );
      })}
      {used
        .filter((line) => feeds.input[line] !== 0)
        .map((line) => {
          const { x, y } = place.get(line)!;
          return (
            <path
              key={`in${line}`}
              className={`flow-dry ${feeds.input[line]! < 0 ? 'flow-turned' : ''}`}
              strokeWidth={width(feeds.input[line]!)}
              markerEnd="url(#flow-tip)"
              d={curve({ x: 34, y: middle }, { x: x - RADIUS, y })}
            />
          );
        })}
      {lines.map(({ source, target }) => {
        const gain = feeds.lines[target]![source]!;
        const from = place.get(source)!;
        const to = place.get(target)!;
        const ahead = to.x > from.x + 1;
        return (
          <path
            key={`${source} ${target}`}
            className={`flow-wet ${gain < 0 ? 'flow-turned' : ''}`}
            strokeWidth={width(gain)}
            markerEnd="url(#flow-tip)"
            d={curve(ahead ? { x: from.x + RADIUS, y: from.y } : from, ahead ? { x: to.x - RADIUS, y: to.y } : to)}
          />
        );
      })}
      {used
        .filter((line) => feedback(line) !== 0)
        .map((line) => {
          const { x, y } = place.get(line)!;
          return (
            <path
              key={`own${line}`}
              className={`flow-wet ${feedback(line) < 0 ? 'flow-turned' : ''}`}
              strokeWidth={width(feedback(line))}
              markerEnd="url(#flow-tip)"
              d={`M${x + 7} ${y - 10}C${x + 16} ${y - 26} ${x - 16} ${y - 26} ${x - 7} ${y - 10}`}
            />
          );
        })}
      {used.map((line) => {
        const { x, y } = place.get(line)!;
        return (
          <g key={line} className="flow-line" transform={`translate(${x} ${y})`}>
            <circle r={RADIUS} />
            <text y="4" textAnchor="middle">
              {line + 1}
            </text>
            {feeds.all[line] !== 0 && (
              <text className="flow-all" y={-RADIUS - 3} textAnchor="middle">
                all
              </text>
            )}
          </g>
        );
      })}
    </svg>
  );
}

function describe(feeds: Feeds, used: readonly number[], feedback: (line: number) => number): string {
  const into = used.map((target) => {
    const sources = [
      ...(feeds.input[target] !== 0 ? ['the input'] : []),
      ...(feeds.all[target] !== 0 ? ['all lines'] : []),
      ...used.filter((source) => feeds.lines[target]![source] !== 0).map((source) => `line ${source + 1}`),
      ...(feedback(target) !== 0 ? ['itself'] : []),
    ];
    return `line ${target + 1} is fed by ${sources.length > 0 ? sources.join(', ') : 'nothing'}`;
  });
  return `Flow: ${into.join('; ')}`;
}
