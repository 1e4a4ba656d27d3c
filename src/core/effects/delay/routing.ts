/** Routing between the lines of a delay: ready arrangements, and gains from every source into every line. */

export const LINES = 8;

export const ARRANGEMENTS = ['parallel', 'series', 'pairs', 'ring', 'matrix'] as const;
export type Arrangement = (typeof ARRANGEMENTS)[number];

/** In a ring the way from the last line back to the first. */
const CLOSING_GAIN = 0.5;

/** Gains as factors by target line; what a line takes from itself is its feedback and not told here. */
export interface Feeds {
  /** From the live input. */
  readonly input: readonly number[];
  /** From the sum of all lines as it is heard. */
  readonly all: readonly number[];
  /** `lines[target][source]`. */
  readonly lines: readonly (readonly number[])[];
}

/** Gains of a ready arrangement for the lines in use, in their order. */
export function arranged(arrangement: Exclude<Arrangement, 'matrix'>, on: readonly boolean[]): Feeds {
  const used = on.flatMap((one, line) => (one ? [line] : []));
  const input = on.map(() => 0);
  const lines = on.map(() => on.map(() => 0));
  used.forEach((line, place) => {
    const before = used[place - 1];
    const first = arrangement === 'parallel' || place === 0 || (arrangement === 'pairs' && place % 2 === 0);
    if (first) input[line] = 1;
    else lines[line]![before!] = 1;
  });
  if (arrangement === 'ring' && used.length > 1) lines[used[0]!]![used.at(-1)!] = CLOSING_GAIN;
  return { input, all: on.map(() => 0), lines };
}

export const inputFeed = (target: number) => `routing.in.${target + 1}`;
export const allFeed = (target: number) => `routing.all.${target + 1}`;
export const lineFeed = (source: number, target: number) => `routing.${source + 1}.${target + 1}`;

/** All places of the matrix in the order of the parameters: inputs, sums, then line by line; none from a line to itself. */
export const FEED_IDS: readonly string[] = [
  ...Array.from({ length: LINES }, (_, target) => inputFeed(target)),
  ...Array.from({ length: LINES }, (_, target) => allFeed(target)),
  ...Array.from({ length: LINES }, (_, source) =>
    Array.from({ length: LINES }, (_, target) => target)
      .filter((target) => target !== source)
      .map((target) => lineFeed(source, target)),
  ).flat(),
];

/**
 * The routing at some values; unused lines feed nothing and are fed by nothing.
 * @param percent value of a place of the matrix by its id
 */
export function feedsOf(arrangement: Arrangement, on: readonly boolean[], percent: (id: string) => number): Feeds {
  if (arrangement !== 'matrix') return arranged(arrangement, on);
  const kept = (target: number, source: number | null, id: string) =>
    on[target] && (source === null || (on[source] && source !== target)) ? percent(id) / 100 : 0;
  return {
    input: on.map((_, target) => kept(target, null, inputFeed(target))),
    all: on.map((_, target) => kept(target, null, allFeed(target))),
    lines: on.map((_, target) =>
      on.map((__, source) => (source === target ? 0 : kept(target, source, lineFeed(source, target)))),
    ),
  };
}

/** The places of the matrix, in per cent, that say the same as some feeds. */
export function toMatrix(feeds: Feeds): Record<string, number> {
  const percent = (gain: number) => Math.round(gain * 1000) / 10;
  const entries: [string, number][] = [];
  for (let target = 0; target < LINES; target++) {
    entries.push([inputFeed(target), percent(feeds.input[target]!)], [allFeed(target), percent(feeds.all[target]!)]);
    for (let source = 0; source < LINES; source++) {
      if (source !== target) entries.push([lineFeed(source, target), percent(feeds.lines[target]![source]!)]);
    }
  }
  return Object.fromEntries(entries);
}
