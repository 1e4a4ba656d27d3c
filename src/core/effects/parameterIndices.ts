import type { EffectSpec, ListSpec } from './spec';

/** Parameter indices by id. */
export type ParameterIndices<Id extends string> = Readonly<Record<Id, number>>;

/**
 * Indices of an effect's parameters outside of lists among the values that its kernel gets.
 * @param ids parameters that the kernel uses by name
 * @param others parameters that it finds otherwise
 * @throws Error if the spec has other parameters than these
 */
export function parameterIndices<Id extends string>(
  spec: EffectSpec,
  ids: readonly Id[],
  others: readonly string[] = [],
): ParameterIndices<Id> {
  const listed = spec.lists.reduce((sum, { count, parameters }) => sum + count * parameters.length, 0);
  const own = spec.parameters.slice(listed).map(({ id }) => id);
  return among(spec.id, own, listed, ids, others);
}

/** The same for the parameters of a list item, counted from the first of the item. */
export function itemParameterIndices<Id extends string>(
  { id, parameters }: ListSpec,
  ids: readonly Id[],
): ParameterIndices<Id> {
  return among(
    id,
    parameters.map((parameter) => parameter.id),
    0,
    ids,
    [],
  );
}

function among<Id extends string>(
  name: string,
  known: readonly string[],
  first: number,
  ids: readonly Id[],
  others: readonly string[],
): ParameterIndices<Id> {
  const used = new Set<string>([...ids, ...others]);
  for (const id of used) if (!known.includes(id)) throw new Error(`${name} has no parameter ${id}`);
  for (const id of known) if (!used.has(id)) throw new Error(`The kernel of ${name} does not know ${id}`);
  return Object.fromEntries(ids.map((id) => [id, first + known.indexOf(id)])) as ParameterIndices<Id>;
}
