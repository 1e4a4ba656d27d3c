import { effectById } from '../effects/registry';
import { allStrips, stripOfInsert } from './records/queries';
import type { SessionDocument } from './records/document';

const MOST_NAMES = 3;

function listed(names: readonly string[]): string {
  const rest = names.length - MOST_NAMES;
  return rest > 0 ? `${names.slice(0, MOST_NAMES).join(', ')} and ${rest} more` : names.join(', ');
}

/** Sentences that name what solo, mute, bypass and wet-only leave out of the mix. */
export function leftOut(document: SessionDocument): string[] {
  const { effectsOff, wetOnly } = document.session;
  const strips = allStrips(document);
  const soloed = strips.filter(({ solo }) => solo).map(({ name }) => name);
  const muted = strips.filter(({ mute }) => mute).map(({ name }) => name);
  const bypassed = [
    ...strips.filter(({ bypass }) => bypass).map(({ name }) => `all of ${name}`),
    ...Object.values(document.inserts)
      .filter(({ bypass }) => bypass)
      .map(({ id, effect }) => `${effectById(effect).name} on ${stripOfInsert(document, id)?.name ?? ''}`),
  ];
  return [
    ...(soloed.length > 0 ? [`Solo is on: only ${listed(soloed)} and what feeds them.`] : []),
    ...(muted.length > 0 ? [`Muted: ${listed(muted)}.`] : []),
    ...(effectsOff ? ['All effects are bypassed.'] : bypassed.length > 0 ? [`Bypassed: ${listed(bypassed)}.`] : []),
    ...(wetOnly ? ['Wet only is on: what does not pass a return is left out.'] : []),
  ];
}
