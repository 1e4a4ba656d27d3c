import { cutText, textLength } from '../text';
import { NAME_LENGTH } from './nameLength';

/**
 * A name that is not taken: with a tail behind it, and the first tail that does it.
 * @param tailOf what stands behind the name at the first, the second attempt and so on
 */
export function freeName(taken: ReadonlySet<string>, name: string, tailOf: (attempt: number) => string): string {
  for (let attempt = 1; ; attempt++) {
    const tail = tailOf(attempt);
    const tried = `${cutText(name, NAME_LENGTH - textLength(tail))}${tail}`;
    if (!taken.has(tried)) return tried;
  }
}
