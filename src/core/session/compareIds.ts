/** Order of records by their ids: the same on every machine and after every way of storing them. */
export function compareIds(a: { readonly id: string }, b: { readonly id: string }): number {
  return a.id < b.id ? -1 : a.id > b.id ? 1 : 0;
}
