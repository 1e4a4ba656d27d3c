'use client';

import { useEffect, useState } from 'react';
import Modal from 'react-bootstrap/Modal';
import Button from 'react-bootstrap/Button';
import type { SlotName } from '@/core/session/records/inserts';
import { chooseCommand, currentSlot } from '../session/comparing';
import { useStudio } from '../session/StudioContext';
import { useFrame } from '../ui/useFrame';
import { outcome, ROUNDS, shuffledRounds } from './trialRounds';

interface Props {
  readonly target: string;
  readonly strip: string;
  readonly slots: readonly SlotName[];
  readonly gains: Partial<Record<SlotName, number>>;
  readonly onClose: () => void;
}

/** Plays the settings in a hidden order, round after round, and tells how often the preferences agreed. */
export function BlindTrial({ target, strip, slots, gains, onClose }: Props) {
  const studio = useStudio();
  const [rounds, setRounds] = useState(() => shuffledRounds(slots, Math.random));
  const [heard, setHeard] = useState<number | null>(null);
  const [playing, setPlaying] = useState(false);
  const now = rounds.findIndex((round) => round.choice === null);
  const done = now < 0;

  // The controls of what is compared show nothing meanwhile.
  useEffect(() => {
    studio.set({ blind: true });
    return () => studio.set({ blind: false });
  }, [studio]);
  useFrame(() => {
    if (studio.engine.playing !== playing) setPlaying(studio.engine.playing);
  });
  useEffect(() => {
    const before = studio.state.trims[strip] ?? 0;
    return () => {
      studio.editor.abandon();
      studio.monitor.setTrim(strip, before);
    };
  }, [studio, strip]);

  const hear = (place: number) => {
    const slot = rounds[now]!.order[place]!;
    setHeard(place);
    studio.editor.abandon();
    if (slot !== currentSlot(studio.state.document, target))
      studio.editor.preview(chooseCommand(target, slot), 'Blind trial');
    studio.monitor.setTrim(strip, gains[slot] ?? 0);
  };
  const prefer = (place: number) => {
    setRounds(rounds.map((round, index) => (index === now ? { ...round, choice: place } : round)));
    setHeard(null);
    studio.editor.abandon();
  };
  const result = done ? outcome(rounds) : null;
  return (
    <Modal show onHide={onClose} aria-labelledby="blind-title">
      <Modal.Header closeButton>
        <Modal.Title id="blind-title" as="h2">
          {done ? 'What you preferred' : `Blind trial, round ${now + 1} of ${ROUNDS}`}
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        {result ? (
          <>
            <p role="status">
              {result.best.length > 1 ? (
                <>
                  A tie: <b>{result.best.join(' and ')}</b> were preferred {result.counts[result.best[0]!]} times
                  each.{' '}
                </>
              ) : (
                <>
                  You preferred <b>{result.best[0]}</b> in {result.counts[result.best[0]!]} of {ROUNDS} rounds.{' '}
                </>
              )}
              {result.sure
                ? 'That is more than chance would give.'
                : 'That can be chance: the settings may matter less than they seemed to.'}
            </p>
            <ul className="recipe-lines">
              {slots.map((slot) => (
                <li key={slot}>
                  {slot}: {result.counts[slot] ?? 0} of {ROUNDS}
                </li>
              ))}
            </ul>
          </>
        ) : (
          <>
            <p>All are equally loud and in a new order every round. Listen to each, then say which one you prefer.</p>
            <Button
              variant="line"
              className="blind-play"
              aria-pressed={playing}
              onClick={() => studio.transport.toggle()}
            >
              {playing ? 'Stop' : 'Play'}
            </Button>
            <div className="blind-places">
              {rounds[now]!.order.map((_, place) => (
                <div key={place}>
                  <Button variant="line" aria-pressed={heard === place} onClick={() => hear(place)}>
                    Hear {place + 1}
                  </Button>
                  <Button variant="solid" onClick={() => prefer(place)}>
                    I prefer {place + 1}
                  </Button>
                </div>
              ))}
            </div>
          </>
        )}
      </Modal.Body>
    </Modal>
  );
}
