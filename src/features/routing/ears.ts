import { findEffect } from '@/core/effects/registry';
import type { InputSpec } from '@/core/effects/spec';
import type { SessionDocument } from '@/core/session/records/document';
import type { Insert } from '@/core/session/records/inserts';
import { stripOf } from '@/core/session/records/queries';

/** An input of an effect that another strip can feed. */
export interface Ear {
  readonly insert: Insert;
  readonly input: InputSpec;
}

export function earsOf(document: SessionDocument, stripId: string): Ear[] {
  return stripOf(document, stripId)!.insertIds.flatMap((id) => {
    const insert = document.inserts[id]!;
    return (findEffect(insert.effect)?.inputs ?? []).map((input) => ({ insert, input }));
  });
}

export function heardBy(document: SessionDocument, { insert, input }: Ear): string {
  const from = insert.inputs[input.id];
  return `${input.name.toLowerCase()}: ${from ? stripOf(document, from.stripId)!.name : 'its own input'}`;
}
