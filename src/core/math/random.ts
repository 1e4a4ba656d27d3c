/** A word of SplitMix32 from its counter: an unsigned integer of 32 bits. */
export function splitMix(counter: number): number {
  let z = counter >>> 0;
  z = Math.imul(z ^ (z >>> 16), 0x85ebca6b);
  z = Math.imul(z ^ (z >>> 13), 0xc2b2ae35);
  return (z ^ (z >>> 16)) >>> 0;
}

/**
 * Seeded random numbers: xoshiro128** 1.1 (Blackman and Vigna, "Scrambled linear pseudorandom number generators",
 * ACM Trans. Math. Softw. 47, 2021), seeded through SplitMix32. 32-bit integer arithmetic, the same in every engine.
 */
export class SeededRandom {
  private a = 0;
  private b = 0;
  private c = 0;
  private d = 0;

  /** @param seed any integer; the low 32 bits count. */
  constructor(seed: number) {
    this.reseed(seed);
  }

  reseed(seed: number): void {
    this.a = splitMix(seed + 0x9e3779b9);
    this.b = splitMix(seed + 2 * 0x9e3779b9);
    this.c = splitMix(seed + 3 * 0x9e3779b9);
    this.d = splitMix(seed + 4 * 0x9e3779b9);
  }

  /** The next 32-bit unsigned integer. */
  nextUint32(): number {
    const product = Math.imul(this.b, 5);
    const result = Math.imul((product << 7) | (product >>> 25), 9) >>> 0;
    const t = this.b << 9;
    this.c ^= this.a;
    this.d ^= this.b;
    this.b ^= this.c;
    this.a ^= this.d;
    this.c ^= t;
    this.d = (this.d << 11) | (this.d >>> 21);
    return result;
  }

  /** Uniform in [0, 1). */
  uniform(): number {
    return this.nextUint32() / 4294967296;
  }

  /** Uniform in [-1, 1). */
  bipolar(): number {
    return this.nextUint32() / 2147483648 - 1;
  }
}
