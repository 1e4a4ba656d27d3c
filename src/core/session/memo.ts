/** Keeps what was worked out of records, for as long as these are the same. */
export class Memo {
  private readonly kept = new Map<
    string,
    { readonly from: readonly unknown[]; readonly value: unknown; round: number }
  >();
  private round = 0;

  /**
   * @param key names the work; one that depends on the same kinds of things each time
   * @param from all that the value depends on; records that never change, compared by identity
   */
  keep<T>(key: string, from: readonly unknown[], make: () => T): T {
    const known = this.kept.get(key);
    if (known && known.from.length === from.length && known.from.every((one, n) => one === from[n])) {
      known.round = this.round;
      return known.value as T;
    }
    const value = make();
    this.kept.set(key, { from, value, round: this.round });
    return value;
  }

  /** Forgets what has not been asked for since the last time. */
  sweep(): void {
    for (const [key, { round }] of this.kept) if (round !== this.round) this.kept.delete(key);
    this.round++;
  }
}
