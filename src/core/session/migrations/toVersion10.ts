import { each, type Old } from './each';

/** Version 10 has two modes of pan. Nothing of version 9 sounds otherwise. */
export function toVersion10(old: Old): Old {
  const balanced = (strip: Old): Old => ({ ...strip, panMode: 'balance' });
  return {
    ...old,
    tracks: each(old.tracks, balanced),
    returns: each(old.returns, balanced),
    main: balanced(old.main as Old),
    version: 10,
  };
}
