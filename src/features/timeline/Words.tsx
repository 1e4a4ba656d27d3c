'use client';

import Button from 'react-bootstrap/Button';
import { wordsOf, type Word } from '@/core/session/makeSwell';
import { soundPlace } from '@/core/session/prints';
import type { Clip } from '@/core/session/records';
import { useStudio } from '../session/StudioContext';

interface Props {
  readonly clip: Clip;
  readonly onsets: readonly number[];
  readonly chosen: Word | null;
  readonly perSecond: number;
}

/** Where the words or notes of a clip begin: one is chosen by its mark, several up to another mark with Shift. */
export function Words({ clip, onsets, chosen, perSecond }: Props) {
  const studio = useStudio();
  const words = wordsOf(clip, onsets);
  const choose = (word: Word, more: boolean) => {
    const from = more && chosen ? Math.min(chosen.from, word.from) : word.from;
    const to = more && chosen ? Math.max(chosen.to, word.to) : word.to;
    studio.set({ word: { clipId: clip.id, from, to } });
  };
  const left = (seconds: number) => soundPlace(clip, seconds) * perSecond;
  return (
    <>
      {chosen && (
        <span
          className="clip-word"
          style={{
            left: Math.min(left(chosen.from), left(chosen.to)),
            width: Math.abs(left(chosen.to) - left(chosen.from)),
          }}
        />
      )}
      {words.map((word, n) => (
        <Button
          key={word.from}
          bsPrefix="clip-onset"
          style={{ left: left(word.from) }}
          aria-label={`Word ${n + 1} of ${clip.name}`}
          aria-pressed={chosen?.from === word.from}
          title="Choose this word; with Shift all up to it"
          onPointerDown={(event) => event.stopPropagation()}
          onClick={(event) => choose(word, event.shiftKey)}
          onKeyDown={(event) => event.key === 'Enter' && event.stopPropagation()}
        />
      ))}
    </>
  );
}
