/** What work comes to that is a generator of its progress. */
export function finished<T>(steps: Generator<unknown, T>): T {
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}
