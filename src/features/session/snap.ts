import { beatsPerBar } from '@/core/session/records/queries';
import type { SessionDocument } from '@/core/session/records/document';
import type { Snap } from './state';

/** Grid of a snap setting in beats; 0 is none. */
export function gridOf(snap: Snap, document: SessionDocument): number {
  if (snap === 'edges') return 0;
  return snap === 'bar' ? beatsPerBar(document.session) : snap;
}
