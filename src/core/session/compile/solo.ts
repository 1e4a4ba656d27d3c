import { channels, stripOf } from '../records/queries';
import { MAIN_ID } from '../records/strips';
import type { SessionDocument } from '../records/document';
import { carriesSound, reachOf, type Connection } from '../routing';

export interface Audibility {
  isAudible(stripId: string): boolean;
  passes(connection: Connection): boolean;
}

/**
 * Strips and connections that solo and "wet only" let through. Soloed strips are heard along all their routes to the main
 * output, and strips that feed them through them alone. "Wet only" closes the outputs of tracks.
 */
export function audibilityOf(
  document: SessionDocument,
  connections: readonly Connection[],
  ignoreSolo: boolean,
): Audibility {
  const soloed = new Set(channels(document).flatMap((strip) => (!ignoreSolo && strip.solo ? [strip.id] : [])));
  const audio = connections.filter(carriesSound);
  const after = reachOf(soloed, audio, false);
  const before = reachOf(soloed, audio, true);
  const none = soloed.size === 0;
  const wetOnly = document.session.wetOnly && !ignoreSolo;
  return {
    isAudible(stripId) {
      const muted = stripOf(document, stripId)!.mute;
      if (none || stripId === MAIN_ID) return !muted;
      return soloed.has(stripId) || (!muted && (after.has(stripId) || before.has(stripId)));
    },
    passes({ kind, fromId, toId }) {
      if (wetOnly && kind === 'output' && document.tracks[fromId]) return false;
      return none || after.has(fromId) || before.has(toId);
    },
  };
}
