import { each, type Old } from './each';

/** Version 6 has shapes of fades, clips that are muted or reversed, and prints of clips. Nothing of version 5 sounds otherwise. */
export function toVersion6(old: Old): Old {
  return {
    ...old,
    version: 6,
    session: { ...(old.session as Old), bounceFinest: false },
    clips: each(old.clips, (clip) => ({
      ...clip,
      fadeInShape: 'smooth',
      fadeOutShape: 'smooth',
      reversed: false,
      mute: false,
    })),
    prints: each(old.prints, ({ made, ...print }) => ({
      ...print,
      made: made && { ...(made as Old), landSeconds: 0 },
    })),
  };
}
