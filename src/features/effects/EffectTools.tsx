'use client';

import type { KeyboardEvent } from 'react';
import Button from 'react-bootstrap/Button';
import { exaggerated } from '@/core/effects/exaggerate';
import type { EffectSpec } from '@/core/effects/spec';
import { timingOf } from '@/core/session/records/queries';
import { useStudio, useStudioState } from '../session/StudioContext';
import { usePointerDrag } from '../ui/usePointerDrag';

/** Held down, the effect is overdone; let go, it is as it was. */
export function ExaggerateButton({ insertId, spec }: { insertId: string; spec: EffectSpec }) {
  const studio = useStudio();
  const press = () => {
    studio.editor.settle();
    const { document } = studio.state;
    const values = exaggerated(spec, document.inserts[insertId]!.values, timingOf(document));
    studio.editor.preview({ type: 'insert.set', id: insertId, values }, `Exaggerate ${spec.name}`);
  };
  const release = () => studio.editor.abandon();
  const [begin] = usePointerDrag<true>({
    begin: () => {
      press();
      return true;
    },
    move: () => {},
    end: release,
    cancel: release,
  });
  const byKey = (event: KeyboardEvent, act: () => void) => {
    if (event.key !== ' ' && event.key !== 'Enter') return;
    event.preventDefault();
    event.stopPropagation();
    if (!event.repeat) act();
  };
  if (!spec.exaggerates) return null;
  return (
    <Button
      variant="line"
      className="button-hold"
      title="Hold it down to hear the effect overdone; let go and it is as it was"
      onPointerDown={begin}
      onKeyDown={(event) => byKey(event, press)}
      onKeyUp={(event) => byKey(event, release)}
      onBlur={release}
    >
      Exaggerate
    </Button>
  );
}

/** Plays only what the effect adds and takes away. */
export function DifferenceButton({ insertId }: { insertId: string }) {
  const studio = useStudio();
  const on = useStudioState(({ differenceId }) => differenceId === insertId);
  return (
    <Button
      variant="line"
      aria-pressed={on}
      title="Hear only the difference: what comes out less what goes in, at the level at which both cancel best"
      onClick={() => studio.monitor.hearDifference(on ? null : insertId)}
    >
      Difference
    </Button>
  );
}
