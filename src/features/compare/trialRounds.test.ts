import { chanceOf, outcome, ROUNDS, shuffledRounds } from './trialRounds';

/** A random number generator that says the same again. */
function repeatable(): () => number {
  let state = 12345;
  return () => {
    state = (state * 1103515245 + 12345) % 2147483648;
    return state / 2147483648;
  };
}

describe('a blind trial', () => {
  it('shuffles every slot into every round, in all orders alike', () => {
    const first = { A: 0, B: 0, C: 0 };
    const random = repeatable();
    for (let trial = 0; trial < 600; trial++) {
      for (const { order, choice } of shuffledRounds(['A', 'B', 'C'], random)) {
        expect([...order].sort().join('')).toBe('ABC');
        expect(choice).toBeNull();
        first[order[0] as 'A' | 'B' | 'C']++;
      }
    }
    for (const count of Object.values(first)) expect(Math.abs(count - (600 * ROUNDS) / 3)).toBeLessThan(100);
  });

  it('tells how often the preferences agreed, and whether that can be chance', () => {
    const round = (order: ('A' | 'B')[], choice: number) => ({ order, choice });
    const always = Array.from({ length: 5 }, (_, i) => (i % 2 ? round(['A', 'B'], 1) : round(['B', 'A'], 0)));
    expect(outcome(always)).toMatchObject({ counts: { B: 5 }, best: ['B'] });
    const mixed = [
      round(['A', 'B'], 0),
      round(['A', 'B'], 1),
      round(['A', 'B'], 1),
      round(['A', 'B'], 0),
      round(['A', 'B'], 1),
    ];
    expect(outcome(mixed)).toMatchObject({ counts: { A: 2, B: 3 }, best: ['B'], sure: false });
  });

  it('calls a tie a tie', () => {
    const order = ['A', 'B', 'C'] as const;
    const rounds = [0, 1, 2, 0, 1].map((choice) => ({ order, choice }));
    expect(outcome(rounds)).toEqual({ counts: { A: 2, B: 2, C: 1 }, best: ['A', 'B'], sure: false });
  });

  it('knows what chance gives', () => {
    expect(chanceOf(5, 5, 2)).toBeCloseTo(1 / 32, 12);
    expect(chanceOf(0, 5, 4)).toBeCloseTo(1, 12);
    expect(chanceOf(5, 5, 4) * 4).toBeLessThan(0.05);
  });
});
