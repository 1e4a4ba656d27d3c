import { controlsOf, type Control, type EffectSpec, type ListSpec, type PictureKind } from '@/core/effects/spec';

const COLUMNS = 4;
const COLUMNS_BESIDE = 2;
/** Up to so many controls stand beside the picture, if its curves are as good in half the width. */
const MOST_BESIDE = 13;
const NARROW: readonly PictureKind[] = ['response', 'levels', 'hysteresis', 'shape', 'burst', 'motion'];
/** Controls from which on a group takes several columns, and how many. */
const WIDE = 8;
const WIDE_COLUMNS = 3;
/** A group with this part of the largest group's controls is large too. */
const TALL = 0.7;

/** A heading and what is controlled under it. */
export type ControlGroup = readonly [name: string, parameters: readonly Control[]];

/** Switches that belong to a figure are shown with it. */
const switches = ({ id }: Control, { parameters }: EffectSpec): boolean =>
  parameters.some((one) => one.kind === 'number' && one.switchedBy === id);

/**
 * Parameters under their headings, in order; of a long list those of one item.
 * @param elsewhere those that have a place of their own
 */
export function groupsOf(
  spec: EffectSpec,
  long: ListSpec | undefined,
  item: number,
  elsewhere: (id: string) => boolean = () => false,
): ControlGroup[] {
  const groups = new Map<string, Control[]>();
  for (const parameter of controlsOf(spec)) {
    if (elsewhere(parameter.id) || switches(parameter, spec)) continue;
    if (long && parameter.id.startsWith(`${long.id}.`) && !parameter.id.startsWith(`${long.id}.${item}.`)) continue;
    const name = long && parameter.id.startsWith(`${long.id}.`) ? `${parameter.group} ${item}` : parameter.group;
    groups.set(name, [...(groups.get(name) ?? []), parameter]);
  }
  return [...groups];
}

/** True if the controls of an effect stand beside its picture: two columns of the four each. */
export function standsBeside({ picture, lists }: EffectSpec, groups: readonly ControlGroup[]): boolean {
  const controls = groups.reduce((sum, [, { length }]) => sum + length, 0);
  return lists.length === 0 && controls <= MOST_BESIDE && NARROW.includes(picture);
}

export interface Column {
  readonly groups: readonly ControlGroup[];
  /** It takes three columns. */
  readonly wide: boolean;
  /** It stands beside the wide one and what is under that. */
  readonly tall: boolean;
}

const sizeOf = ({ groups, wide }: Column) =>
  wide ? Infinity : groups.reduce((sum, [, { length }]) => sum + length, 0);

/** Lets neighbours with the fewest controls share a column until all fit. */
function gathered(columns: readonly Column[], most: number): Column[] {
  const left = [...columns];
  const taken = () => left.reduce((sum, { wide }) => sum + (wide ? WIDE_COLUMNS : 1), 0);
  const together = (at: number) => sizeOf(left[at]!) + sizeOf(left[at + 1]!);
  while (taken() > most) {
    let best = 0;
    for (let at = 1; at < left.length - 1; at++) if (together(at) < together(best)) best = at;
    if (left.length < 2 || together(best) === Infinity) break;
    const groups = [...left[best]!.groups, ...left[best + 1]!.groups];
    left.splice(best, 2, { groups, wide: false, tall: false });
  }
  return left;
}

/**
 * Groups as columns, in order; where there are too many, those side by side with the fewest controls share one. With a
 * wide one and more than two others, the first large one of these stands beside it and the rest under it.
 * @param ending of the names of groups that belong to one item of a list, which are wide
 * @param beside the picture stands beside them
 */
export function columnsOf(groups: readonly ControlGroup[], ending: string | null, beside = false): Column[] {
  const columns = groups.map((group): Column => {
    const [name, { length }] = group;
    const wide = length >= WIDE || (ending !== null && name.endsWith(ending));
    return { groups: [group], wide, tall: false };
  });
  const wide = columns.filter((one) => one.wide);
  const others = columns.filter((one) => !one.wide);
  if (wide.length !== 1 || others.length <= 2) return gathered(columns, beside ? COLUMNS_BESIDE : COLUMNS);
  const most = Math.max(...others.map(sizeOf));
  const tall = others.find((one) => sizeOf(one) >= TALL * most)!;
  const rest = others.filter((one) => one !== tall);
  return [{ ...tall, tall: true }, ...wide, ...gathered(rest, WIDE_COLUMNS)];
}
