import { controlsOf, type Control, type EffectSpec, type ListSpec } from '@/core/effects/spec';

const COLUMNS = 4;
/** Controls from which on a group takes several columns, and how many. */
const WIDE = 8;
const WIDE_COLUMNS = 3;

/** A heading and what is controlled under it. */
export type ControlGroup = readonly [name: string, parameters: readonly Control[]];

/** Switches that belong to a figure are shown with it. */
const switches = ({ id }: Control, { parameters }: EffectSpec): boolean =>
  parameters.some((one) => one.kind === 'number' && one.switchedBy === id);

/**
 * Parameters under their headings, in order, without those shown as main ones; of a long list those of one item.
 * @param elsewhere those that have a place of their own
 */
export function groupsOf(
  spec: EffectSpec,
  long: ListSpec | undefined,
  item: number,
  main: readonly string[],
  elsewhere: (id: string) => boolean = () => false,
): ControlGroup[] {
  const groups = new Map<string, Control[]>();
  for (const parameter of controlsOf(spec)) {
    if (main.includes(parameter.id) || elsewhere(parameter.id) || switches(parameter, spec)) continue;
    if (long && parameter.id.startsWith(`${long.id}.`) && !parameter.id.startsWith(`${long.id}.${item}.`)) continue;
    const name = long && parameter.id.startsWith(`${long.id}.`) ? `${parameter.group} ${item}` : parameter.group;
    groups.set(name, [...(groups.get(name) ?? []), parameter]);
  }
  return [...groups];
}

export interface Column {
  readonly groups: readonly ControlGroup[];
  readonly wide: boolean;
}

/**
 * Groups as columns, in order; where there are too many, those side by side with the fewest controls share one.
 * @param ending of the names of groups that belong to one item of a list, which are wide
 */
export function columnsOf(groups: readonly ControlGroup[], ending: string | null): Column[] {
  const columns = groups.map((group): Column => {
    const [name, { length }] = group;
    return { groups: [group], wide: length >= WIDE || (ending !== null && name.endsWith(ending)) };
  });
  const taken = () => columns.reduce((sum, { wide }) => sum + (wide ? WIDE_COLUMNS : 1), 0);
  const size = ({ groups, wide }: Column) =>
    wide ? Infinity : groups.reduce((sum, [, { length }]) => sum + length, 0);
  while (taken() > COLUMNS) {
    let best = 0;
    const together = (at: number) => size(columns[at]!) + size(columns[at + 1]!);
    for (let at = 1; at < columns.length - 1; at++) if (together(at) < together(best)) best = at;
    if (columns.length < 2 || together(best) === Infinity) break;
    columns.splice(best, 2, { groups: [...columns[best]!.groups, ...columns[best + 1]!.groups], wide: false });
  }
  return columns;
}
