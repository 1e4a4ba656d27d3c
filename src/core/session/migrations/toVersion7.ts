import { each, type Old } from './each';

/** Version 7 has places on the stage and limits of what mono may lose. Nothing of version 6 sounds otherwise. */
export function toVersion7(old: Old): Old {
  const limited = (strip: Old) => ({ ...strip, monoLimitDb: 4 });
  const unplaced = (strip: Old) => ({ ...limited(strip), placeId: null, oppositeOf: null });
  return {
    ...old,
    version: 7,
    session: { ...(old.session as Old), stage: 'speakers', panLaw: '3' },
    main: limited(old.main as Old),
    tracks: each(old.tracks, unplaced),
    returns: each(old.returns, unplaced),
  };
}
