'use client';

import { useRouter } from 'next/navigation';
import { yupResolver } from '@hookform/resolvers/yup';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { useForm } from 'react-hook-form';
import * as yup from 'yup';
import { NAME_LENGTH, shortText } from '@/core/session/fields';
import { createSession } from '@/runtime/client/api';

const schema = yup.object({ name: shortText(NAME_LENGTH).trim().defined() });

/** Begins a session, under a name or without one. */
export function NewSession({ onProblem }: { readonly onProblem: (error: unknown) => void }) {
  const router = useRouter();
  const { register, handleSubmit, formState } = useForm({ resolver: yupResolver(schema), defaultValues: { name: '' } });
  const begin = handleSubmit(async ({ name }) => {
    try {
      router.push(`/session/${(await createSession(name === '' ? undefined : name)).id}`);
    } catch (error) {
      onProblem(error);
    }
  });
  const { name } = formState.errors;
  return (
    <section aria-labelledby="new-title">
      <h2 id="new-title">New session</h2>
      <Form noValidate onSubmit={(event) => void begin(event)}>
        <Form.Group controlId="new-name">
          <Form.Label>Name</Form.Label>
          <Form.Control placeholder="can be given later" isInvalid={name !== undefined} {...register('name')} />
          <Form.Control.Feedback type="invalid">{name?.message}</Form.Control.Feedback>
        </Form.Group>
        <Button type="submit" variant="solid" disabled={formState.isSubmitting}>
          Begin
        </Button>
      </Form>
    </section>
  );
}
