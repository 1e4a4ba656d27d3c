import { useState } from 'react';
import type { Connection as Drawn } from '@xyflow/react';
import { findEffect } from '@/core/effects/registry';
import { newSend } from '@/core/session/records/factories';
import { stripOf, stripOfInsert } from '@/core/session/records/queries';
import { newId } from '../session/newId';
import { useStudio, useStudioState } from '../session/StudioContext';
import { earsOf, type Ear } from './ears';
import { KEY_HANDLE } from './StripNode';

export interface Keying {
  readonly from: string;
  readonly to: string;
}

/** Connections that are drawn by hand, as commands. */
export function useConnecting(onConnected: (edge: string) => void) {
  const studio = useStudio();
  const document = useStudioState((state) => state.document);
  /** A key that was drawn onto a strip with several effects that could take it. */
  const [keying, setKeying] = useState<Keying | null>(null);
  const [said, setSaid] = useState('');
  /** Lets a strip steer an effect; the step says which. */
  const key = ({ insert, input }: Ear, fromId: string) => {
    const from = stripOf(document, fromId)!.name;
    const name = `${findEffect(insert.effect)!.name} on ${stripOfInsert(document, insert.id)!.name}`;
    studio.editor.perform(
      { type: 'insert.input', id: insert.id, slot: input.id, from: { stripId: fromId, tap: 'beforeFader' } },
      `${input.name} ${name} from ${from}`,
    );
    studio.selection.selectInsert(insert.id);
    setSaid(`${from} keys ${name}.`);
  };

  const connect = ({ source, target, targetHandle }: Drawn) => {
    const from = stripOf(document, source)!.name;
    const to = stripOf(document, target)!.name;
    if (targetHandle === KEY_HANDLE) {
      const [first, ...others] = earsOf(document, target);
      if (first && others.length === 0) key(first, source);
      else if (first) setKeying({ from: source, to: target });
      return;
    }
    if (document.returns[target]?.role === 'return') {
      const send = newSend(newId(), source, target);
      if (studio.editor.perform({ type: 'send.add', send }, `Send ${from} to ${to}`)) onConnected(`send ${send.id}`);
      return;
    }
    studio.editor.perform({ type: 'strip.set', id: source, values: { outputId: target } }, `${from} to ${to}`);
  };
  return { connect, key, keying, setKeying, said };
}
