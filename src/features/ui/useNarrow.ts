import { useSyncExternalStore } from 'react';

/** Under this width the columns stand below one another, as in `frame.css`. */
const NARROW = '(max-width: 1099px)';

function follow(changed: () => void): () => void {
  const query = window.matchMedia?.(NARROW);
  query?.addEventListener('change', changed);
  return () => query?.removeEventListener('change', changed);
}

/** True while the window is so narrow, or so much enlarged, that the columns stand below one another. */
export function useNarrow(): boolean {
  return useSyncExternalStore(
    follow,
    () => window.matchMedia?.(NARROW).matches ?? false,
    () => false,
  );
}
