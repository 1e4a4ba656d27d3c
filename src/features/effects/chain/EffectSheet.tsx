'use client';

import { useState, type KeyboardEvent } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { EFFECTS, findEffect } from '@/core/effects/registry';
import { FAMILIES, type EffectSpec } from '@/core/effects/spec';
import { addEffect, latelyAdded } from '../../session/effectWork';
import { Sheet } from '../../controls/Sheet';
import { useStudio } from '../../session/StudioContext';
import { isFound } from '../../ui/isFound';

interface Props {
  readonly stripId: string;
  readonly stripName: string;
  readonly onHide: () => void;
}

/** All effects by what they are for, to be added to a strip. */
export function EffectSheet({ stripId, stripName, onHide }: Props) {
  const studio = useStudio();
  const [search, setSearch] = useState('');
  const fits = ({ name, purpose, synonyms }: EffectSpec, family: string) =>
    isFound(search, name, purpose, synonyms, family);
  const lately = latelyAdded().flatMap((id) => findEffect(id) ?? []);
  const groups = [
    ...(lately.length > 0 && search.trim() === '' ? [{ id: 'lately', name: 'Used lately', effects: lately }] : []),
    ...FAMILIES.map(({ id, name }) => ({
      id,
      name,
      effects: EFFECTS.filter((spec) => spec.family === id && fits(spec, name)),
    })),
  ].filter(({ effects }) => effects.length > 0);
  const add = (spec: EffectSpec) => {
    onHide();
    addEffect(studio, stripId, spec);
  };
  return (
    <Sheet title={`Add an effect to ${stripName}`} className="effect-sheet" onHide={onHide}>
      <Form.Control
        type="search"
        autoFocus
        placeholder="search by name or purpose"
        aria-label="Search effects"
        value={search}
        onChange={(event) => setSearch(event.target.value)}
        onKeyDown={(event) => {
          const first = groups[0]?.effects[0];
          if (event.key !== 'Enter' || !first) return;
          // It would press what has the focus once this is closed.
          event.preventDefault();
          add(first);
        }}
      />
      <div className="effect-families" onKeyDown={stepThrough}>
        {groups.map(({ id, name, effects }) => (
          <section key={id} aria-label={name}>
            <h4>{name}</h4>
            {effects.map((spec) => (
              <Button key={spec.id} bsPrefix="effect-offer" title={spec.purpose} onClick={() => add(spec)}>
                <b>{spec.name}</b>
                <small>{spec.purpose}</small>
              </Button>
            ))}
          </section>
        ))}
      </div>
      {groups.length === 0 && <p>No effect of that name or purpose.</p>}
    </Sheet>
  );
}

/** Arrow keys go from effect to effect. */
function stepThrough(event: KeyboardEvent<HTMLElement>): void {
  const by = { ArrowDown: 1, ArrowRight: 1, ArrowUp: -1, ArrowLeft: -1 }[event.key];
  if (by === undefined) return;
  const offers = [...event.currentTarget.querySelectorAll<HTMLElement>('.effect-offer')];
  const at = offers.indexOf(document.activeElement as HTMLElement);
  offers[(at + by + offers.length) % offers.length]?.focus();
  event.preventDefault();
}
