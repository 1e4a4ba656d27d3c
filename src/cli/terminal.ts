export interface Terminal {
  out(line: string): void;
  /** A line beside the output: what was decided for the user. */
  note(line: string): void;
  /** Shows how far the work is; called only when someone may be watching. */
  progress(done: number): void;
}
