'use client';

import Button from 'react-bootstrap/Button';
import Modal from 'react-bootstrap/Modal';
import { findEffect } from '@/core/effects/registry';
import { stripOf } from '@/core/session/records/queries';
import { useStudioState } from '../session/StudioContext';
import type { Keying } from './connecting';
import { earsOf, heardBy, type Ear } from './ears';

interface Props {
  readonly keying: Keying;
  readonly onKey: (ear: Ear, fromId: string) => void;
  readonly onHide: () => void;
}

/** Asks which of several effects listens to a strip. */
export function KeyChoice({ keying, onKey, onHide }: Props) {
  const document = useStudioState((state) => state.document);
  return (
    <Modal show centered size="sm" onHide={onHide} aria-labelledby="keying-title">
      <Modal.Header closeButton>
        <Modal.Title id="keying-title" as="h2">
          What is to listen to {stripOf(document, keying.from)!.name}?
        </Modal.Title>
      </Modal.Header>
      <Modal.Body className="keying">
        {earsOf(document, keying.to).map((ear) => (
          <Button
            key={`${ear.insert.id} ${ear.input.id}`}
            variant="line"
            onClick={() => {
              onKey(ear, keying.from);
              onHide();
            }}
          >
            {findEffect(ear.insert.effect)!.name}
            <small>{heardBy(document, ear)}</small>
          </Button>
        ))}
      </Modal.Body>
    </Modal>
  );
}
