/** Fetches a session that is about to be opened. What reads it comes by itself: the start page does without the effects. */
export function fetchAhead(id: string): void {
  void import('../session/prefetch').then((prefetch) => prefetch.fetchAhead(id));
}
