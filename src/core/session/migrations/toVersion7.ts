type Old = Record<string, unknown>;

const each = (records: unknown, change: (one: Old) => Old): Old =>
  Object.fromEntries(Object.entries((records ?? {}) as Record<string, Old>).map(([id, one]) => [id, change(one)]));

/** Version 7 has places on the stage. Nothing of version 6 stands anywhere, and nothing of it sounds otherwise. */
export function toVersion7(old: Old): Old {
  const unplaced = (strip: Old) => ({ ...strip, placeId: null, oppositeOf: null });
  return {
    ...old,
    version: 7,
    session: { ...(old.session as Old), stage: 'speakers', panLaw: '3' },
    tracks: each(old.tracks, unplaced),
    returns: each(old.returns, unplaced),
  };
}
