'use client';

import { useMemo, type CSSProperties } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { wordsOf, type Word } from '@/core/swells/makeSwell';
import { soundPlace } from '@/core/session/prints';
import type { Clip } from '@/core/session/records/clips';
import { useStudio } from '../session/StudioContext';
import { spreadOut } from './geometry';

interface Props {
  readonly clip: Clip;
  readonly onsets: readonly number[];
  readonly chosen: Word | null;
  readonly perSecond: number;
}

/** Width of a mark, in pixels: marks do not cover one another, nor the edge that the cast is made wider by. */
const MARK_WIDTH = 11;
const EDGE = 8;

/** Marks at the words or notes of a clip: a press selects one, with Shift all up to it. */
export function Words({ clip, onsets, chosen, perSecond }: Props) {
  const studio = useStudio();
  const left = (seconds: number) => soundPlace(clip, seconds) * perSecond;
  const words = wordsOf(clip, onsets).sort((a, b) => left(a.from) - left(b.from));
  const places = words.map(({ from }) => left(from));
  const marks = spreadOut(places, MARK_WIDTH + 1, EDGE, clip.lengthSeconds * perSecond - MARK_WIDTH / 2);
  const choose = (word: Word, more: boolean) => {
    const from = more && chosen ? Math.min(chosen.from, word.from) : word.from;
    const to = more && chosen ? Math.max(chosen.to, word.to) : word.to;
    studio.set({ word: { clipId: clip.id, from, to } });
  };
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
          style={{ left: marks[n]!, '--from': `${places[n]! - marks[n]!}px` } as CSSProperties}
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

/** The words of a clip as a list, however close together they lie on the timeline. */
export function WordChoice({ clip, onsets, chosen }: Omit<Props, 'perSecond'>) {
  const studio = useStudio();
  const words = useMemo(
    () => wordsOf(clip, onsets).sort((a, b) => soundPlace(clip, a.from) - soundPlace(clip, b.from)),
    [clip, onsets],
  );
  if (words.length === 0) return null;
  const at = words.findIndex(({ from, to }) => from === chosen?.from && to === chosen.to);
  return (
    <label className="lane-field">
      <span>word</span>
      <Form.Select
        size="sm"
        aria-label={`Word of ${clip.name}`}
        value={chosen && at < 0 ? 'several' : at}
        onChange={({ target }) => {
          const word = words[Number(target.value)];
          studio.set({ word: word ? { clipId: clip.id, ...word } : null });
        }}
      >
        <option value={-1}>none</option>
        {chosen && at < 0 && <option value="several">several</option>}
        {words.map((word, n) => (
          <option key={word.from} value={n}>
            {n + 1}, at {soundPlace(clip, word.from).toFixed(2)} s
          </option>
        ))}
      </Form.Select>
    </label>
  );
}
