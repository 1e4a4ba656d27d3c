/** One line a happening, as JSON, on standard output. */
export function log(event: string, details: Record<string, unknown> = {}): void {
  console.log(JSON.stringify({ at: new Date().toISOString(), event, ...details }));
}
