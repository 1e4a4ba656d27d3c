/**
 * The selection after a press on one item.
 * @param isMore adds it to what is chosen, or takes it out, as with Shift
 */
export function chosenBy<T>(pressed: T, chosen: readonly T[], isMore: boolean): readonly T[] {
  const isChosen = chosen.includes(pressed);
  if (isMore) return isChosen ? chosen.filter((one) => one !== pressed) : [...chosen, pressed];
  return isChosen ? chosen : [pressed];
}
