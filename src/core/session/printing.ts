import { ENGINE_VERSION } from '../engine/version';
import type { Plan } from '../engine/plan';
import { fingerprint } from '../math/hash';
import { compileTap } from './compile';
import type { Print, SessionDocument } from './records';

/** A print that has to be made: what is rendered for it, and what that depends on. */
export interface PrintWork {
  readonly plan: Plan;
  readonly fingerprint: string;
}

/** What has to be done for a print. */
export function printWork(document: SessionDocument, { recipe }: Pick<Print, 'recipe'>): PrintWork {
  const plan = compileTap(document, recipe.stripId);
  const plain = (_: string, value: unknown) => (value instanceof Float64Array ? [...value] : value);
  return { plan, fingerprint: fingerprint(`${ENGINE_VERSION} ${JSON.stringify(plan, plain)}`) };
}

/** Prints whose sounds are part of what a print is made from, nearest first. */
export function printsBehind(document: SessionDocument, print: Pick<Print, 'id' | 'recipe'>): string[] {
  const assets = new Set(
    printWork(document, print).plan.strips.flatMap(({ clips }) => clips.map(({ assetId }) => assetId)),
  );
  return Object.values(document.prints).flatMap(({ id, made }) =>
    id !== print.id && made && assets.has(made.assetId) ? [id] : [],
  );
}

/** Whether a print is what its recipe gives now. */
export function isFresh(document: SessionDocument, print: Print): boolean {
  return print.made !== null && print.made.fingerprint === printWork(document, print).fingerprint;
}
