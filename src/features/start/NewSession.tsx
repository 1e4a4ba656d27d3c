'use client';

import { useState, type FormEvent } from 'react';
import { useRouter } from 'next/navigation';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { createSession } from '@/runtime/client/api';

interface Props {
  /** It is the main act of the page. */
  readonly isMain: boolean;
  readonly onProblem: (error: unknown) => void;
}

/** Begins a session, under a name or without one. */
export function NewSession({ isMain, onProblem }: Props) {
  const router = useRouter();
  const [fault, setFault] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const begin = async (form: HTMLFormElement) => {
    setFault(null);
    setBusy(true);
    try {
      const { sessionName } = await import('./sessionName');
      const name = await sessionName.validate(new FormData(form).get('name'));
      router.push(`/session/${(await createSession(name === '' ? undefined : name)).id}`);
    } catch (error) {
      if (error instanceof Error && error.name === 'ValidationError') setFault(error.message);
      else onProblem(error);
    } finally {
      setBusy(false);
    }
  };
  const onSubmit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    void begin(event.currentTarget);
  };
  return (
    <section aria-labelledby="new-title">
      <h2 id="new-title">New session</h2>
      <Form noValidate onSubmit={onSubmit}>
        <Form.Group controlId="new-name">
          <Form.Label>Name</Form.Label>
          <Form.Control name="name" placeholder="optional" isInvalid={fault !== null} />
          <Form.Control.Feedback type="invalid">{fault}</Form.Control.Feedback>
        </Form.Group>
        <Button type="submit" variant={isMain ? 'solid' : 'line'} disabled={busy}>
          Begin
        </Button>
      </Form>
    </section>
  );
}
