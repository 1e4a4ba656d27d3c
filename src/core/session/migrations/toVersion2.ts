/** A record of some old version, whose shape is known only to its migration. */
type Old = Record<string, unknown>;

const each = (records: unknown, more: Old): Old =>
  Object.fromEntries(
    Object.entries((records ?? {}) as Record<string, Old>).map(([id, one]) => [id, { ...one, ...more }]),
  );

/** Version 2 adds returns, groups, sends, keys, automation and comparisons; nothing of version 1 sounds otherwise. */
export function toVersion2(old: Old): Old {
  return {
    ...old,
    version: 2,
    session: { ...(old.session as Old), returnIds: [], effectsOff: false, wetOnly: false },
    main: { ...(old.main as Old), bypass: false },
    tracks: each(old.tracks, { bypass: false, outputId: 'main', frozen: null }),
    inserts: each(old.inserts, { keyId: null, keyTap: 'beforeFader' }),
    returns: {},
    sends: {},
    lanes: {},
    comparisons: {},
  };
}
