/** Added to a state and subtracted again to flush denormals, which slow a machine down tenfold. */
export const TINY = 1e-20;

/** A state without what is too small for the machine to be quick with it. */
export function settled(x: number): number {
  return x + TINY - TINY;
}
