'use client';

import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import Modal from 'react-bootstrap/Modal';
import type { Heard } from '@/core/formats/speakers';
import { ChannelChoice } from '../controls/ChannelChoice';
import { likelyHeard, tellTimes, type Arrival, type Placing } from '../session/arrival';
import { useStudio, useStudioState } from '../session/StudioContext';

/** Asks how files come in: how several are placed, and what is heard of channels without places. */
export function ArrivalDialog() {
  const studio = useStudio();
  const arrival = useStudioState((state) => state.arrival);
  return (
    <Modal show={arrival !== null} onHide={() => studio.state.arrival?.answer(null)} aria-labelledby="arrival-title">
      {arrival && <Question arrival={arrival} />}
    </Modal>
  );
}

function Question({ arrival }: { readonly arrival: Arrival }) {
  const { files, trackName, unplaced, answer } = arrival;
  const [placing, setPlacing] = useState<Placing>('tracks');
  const [heard, setHeard] = useState<ReadonlyMap<number, Heard>>(
    () => new Map(unplaced.map((channels) => [channels, likelyHeard(channels)])),
  );
  const isOne = files.length === 1;
  const hasTimes = tellTimes(files);
  const placings: readonly (readonly [Placing, string, string?])[] = [
    ['tracks', 'each on a track of its own'],
    ['row', `one after the other on ${trackName ?? 'a new track'}`],
    ['times', 'each at its own time, on a track of its own', hasTimes ? undefined : 'not all of them tell one'],
  ];
  return (
    <Form
      onSubmit={(event) => {
        event.preventDefault();
        answer({ placing, heard });
      }}
    >
      <Modal.Header closeButton>
        <Modal.Title id="arrival-title">{isOne ? files[0]!.file.name : `${files.length} sounds`}</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        {!isOne && (
          <fieldset className="arrival-part">
            <legend>Bring them in</legend>
            {placings.map(([id, words, reason]) => (
              <Form.Check
                key={id}
                type="radio"
                id={`placing-${id}`}
                name="placing"
                label={reason ? `${words} (${reason})` : words}
                checked={placing === id}
                disabled={reason !== undefined}
                onChange={() => setPlacing(id)}
              />
            ))}
          </fieldset>
        )}
        {unplaced.map((channels) => {
          const names = files.flatMap(({ file, about }) => (about?.channels === channels ? file.name : []));
          const whose = isOne ? 'It' : names.length === 1 ? names[0]! : `${names.length} of them`;
          return (
            <fieldset key={channels} className="arrival-part">
              <legend>{channels} channels</legend>
              <p>
                {whose} {names.length === 1 ? 'has' : 'have'} {channels} channels and{' '}
                {names.length === 1 ? 'does' : 'do'} not tell which speakers they are for. Play them as
              </p>
              <div className="arrival-channels">
                <ChannelChoice
                  label={`What is heard of ${channels} channels`}
                  channels={channels}
                  heard={heard.get(channels)}
                  onChoose={(chosen) => setHeard(new Map(heard).set(channels, chosen))}
                />
              </div>
            </fieldset>
          );
        })}
        {unplaced.length > 0 && <p className="arrival-hint">What is heard can be changed at the clip.</p>}
      </Modal.Body>
      <Modal.Footer>
        <Button variant="line" onClick={() => answer(null)}>
          Leave {isOne ? 'it' : 'them'}
        </Button>
        <Button type="submit" variant="solid" autoFocus>
          Bring {isOne ? 'it' : 'them'} in
        </Button>
      </Modal.Footer>
    </Form>
  );
}
