import type { EffectSpec, ListSpec } from './spec';

/** Places by id. */
export type ParameterIndices<Id extends string> = Readonly<Record<Id, number>>;

/**
 * Where the parameters of an effect that stand outside of lists are among the values that its kernel is given.
 * @param ids those that the kernel calls by their names
 * @param others those that it finds by itself
 * @throws Error when the spec has another, or has not one of these
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

/** The same for the parameters of an item of a list, counted from the first of the item. */
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
