import type { SlotName } from '@/core/session/records/inserts';

/** One round of a blind trial: the slots in a hidden order, and which place was preferred. */
export interface Round {
  readonly order: readonly SlotName[];
  readonly choice: number | null;
}

export const ROUNDS = 5;

/**
 * A hidden order of the slots for every round (Fisher and Yates, as in Knuth, "The Art of Computer Programming" 2, 3.4.2).
 * @param random numbers in [0, 1)
 */
export function shuffledRounds(slots: readonly SlotName[], random: () => number): Round[] {
  return Array.from({ length: ROUNDS }, () => {
    const order = [...slots];
    for (let i = order.length - 1; i > 0; i--) {
      const j = Math.floor(random() * (i + 1));
      [order[i], order[j]] = [order[j]!, order[i]!];
    }
    return { order, choice: null };
  });
}

/**
 * Counts of how often each slot was preferred, the slots preferred most often (several when equal), and whether chance
 * alone would give that in fewer than one trial of twenty.
 */
export function outcome(rounds: readonly Round[]): {
  counts: Partial<Record<SlotName, number>>;
  best: readonly SlotName[];
  sure: boolean;
} {
  const counts: Partial<Record<SlotName, number>> = {};
  for (const { order, choice } of rounds) {
    if (choice === null) continue;
    const slot = order[choice]!;
    counts[slot] = (counts[slot] ?? 0) + 1;
  }
  const most = Math.max(...Object.values(counts));
  const best = (Object.keys(counts) as SlotName[]).filter((slot) => counts[slot] === most).sort();
  const places = rounds[0]!.order.length;
  const done = rounds.filter((round) => round.choice !== null).length;
  return { counts, best, sure: best.length === 1 && chanceOf(most, done, places) * places < 0.05 };
}

/** Probability that one of `places` is picked at least `times` out of `rounds` by chance (binomial tail). */
export function chanceOf(times: number, rounds: number, places: number): number {
  let sum = 0;
  for (let k = times; k <= rounds; k++) {
    let ways = 1;
    for (let i = 0; i < k; i++) ways = (ways * (rounds - i)) / (i + 1);
    sum += ways * (1 / places) ** k * (1 - 1 / places) ** (rounds - k);
  }
  return sum;
}
