'use client';

import Form from 'react-bootstrap/Form';
import { foldOf, heardName, ownOrder, readHeard, takeOf, type Heard } from '@/core/formats/speakers';

interface Props {
  /** Of what they are, for those who do not see it. */
  readonly label: string;
  readonly channels: number;
  /** The first two where nothing is chosen. */
  readonly heard: Heard | undefined;
  readonly onChoose: (heard: Heard) => void;
}

const TAKEN = 'taken';

/** What is heard of more than two channels: all of them folded to two, or one or two of them. */
export function ChannelChoice({ label, channels, heard, onChoose }: Props) {
  const reading = (heard === undefined ? null : readHeard(heard, channels)) ?? { left: 1, right: 2 };
  const own = ownOrder(channels);
  const masks = new Set([...('mask' in reading ? [reading.mask] : []), ...(own === null ? [] : [own])]);
  const sides = 'mask' in reading ? null : reading;
  return (
    <>
      <Form.Select
        size="sm"
        aria-label={label}
        value={sides ? TAKEN : heard}
        onChange={({ target }) => onChoose(target.value === TAKEN ? takeOf(1, 2) : target.value)}
      >
        {[...masks].map((mask) => (
          <option key={mask} value={foldOf(mask)}>
            {heardName(foldOf(mask), channels)}
          </option>
        ))}
        <option value={TAKEN}>one or two of the channels</option>
      </Form.Select>
      {sides &&
        (['left', 'right'] as const).map((side) => (
          <Form.Select
            key={side}
            size="sm"
            aria-label={`${label}, ${side}`}
            value={sides[side]}
            onChange={({ target }) => {
              const chosen = { ...sides, [side]: Number(target.value) };
              onChoose(takeOf(chosen.left, chosen.right));
            }}
          >
            {Array.from({ length: channels }, (_, n) => (
              <option key={n} value={n + 1}>
                {side} {n + 1}
              </option>
            ))}
          </Form.Select>
        ))}
    </>
  );
}
