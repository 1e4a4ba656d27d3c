import type { StoredSession } from '@/core/protocol/http';
import { fetchAsset } from '@/runtime/client/api';
import { secondsOf } from '@/core/session/records/sounds';
import { loadSession } from '@/runtime/client/storedSessions';
import { prepareDecoders } from '@/runtime/client/decoders';
import { LONG_SECONDS } from '@/core/pages/pagedSamples';
import { FIRST_SOUNDS, soundsToLoad } from './soundLoader';

let ahead: { readonly id: string; readonly stored: Promise<StoredSession> } | null = null;

/** A session is about to be opened: it is fetched while its page is, and what it plays first comes into the browser's cache. */
export function fetchAhead(id: string): void {
  prepareDecoders();
  const stored = loadSession(id);
  ahead = { id, stored };
  stored
    .then(({ document }) => {
      const first = soundsToLoad(document, 0).slice(0, FIRST_SOUNDS);
      // Long ones are read by pages.
      const whole = first.filter(({ asset }) => secondsOf(asset) <= LONG_SECONDS);
      return Promise.all(whole.map(({ asset }) => fetchAsset(asset)));
    })
    // Whoever opens it asks again, and is told.
    .catch(() => {});
}

/** The session that a page opens; one that has been fetched ahead is used once, since it may change after that. */
export function openSession(id: string): Promise<StoredSession> {
  const stored = ahead?.id === id ? ahead.stored.catch(() => loadSession(id)) : loadSession(id);
  ahead = null;
  return stored;
}
