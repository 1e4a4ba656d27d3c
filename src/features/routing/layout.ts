import { graphlib, layout } from '@dagrejs/dagre';
import { allStrips, type SessionDocument } from '@/core/session/records';
import type { Connection } from '@/core/session/routing';

export const NODE_WIDTH = 148;
export const NODE_HEIGHT = 50;

/** What stands before all tracks while they are laid out. */
const SOURCE = 'source of all tracks';

export interface Place {
  readonly x: number;
  readonly y: number;
}

export interface Layout {
  /** Top left corners of strips. */
  readonly strips: ReadonlyMap<string, Place>;
  /** Where lines of sound go, round what stands in their way, by `connectionId`. */
  readonly lines: ReadonlyMap<string, readonly Place[]>;
}

/** A follower can steer several strips. */
export const connectionId = ({ kind, id, slot, toId }: Connection): string =>
  kind === 'follow' ? `${kind} ${id} ${toId}` : kind === 'key' ? `${kind} ${id} ${slot}` : `${kind} ${id}`;

export const steers = ({ kind }: Connection): boolean => kind === 'key' || kind === 'follow';

/** What of a routing its drawing depends on: plain data, so that it is laid out anew when that changes and not before. */
export interface Wiring {
  readonly strips: readonly string[];
  /** Those that begin at the left. */
  readonly tracks: readonly string[];
  /** Ways of sound, each by `connectionId`. */
  readonly lines: readonly {
    readonly id: string;
    readonly fromId: string;
    readonly toId: string;
    readonly send: boolean;
  }[];
}

/** @param shown strips that are drawn */
export function wiringOf(
  document: SessionDocument,
  connections: readonly Connection[],
  shown: ReadonlySet<string>,
): Wiring {
  return {
    strips: allStrips(document).flatMap(({ id }) => (shown.has(id) ? [id] : [])),
    tracks: document.session.trackIds.filter((id) => shown.has(id)),
    lines: connections
      .filter((one) => !steers(one) && shown.has(one.fromId) && shown.has(one.toId))
      .map((one) => ({ id: connectionId(one), fromId: one.fromId, toId: one.toId, send: one.kind === 'send' })),
  };
}

/**
 * Places of strips, left to right in the direction of the sound, in layers with few crossings (Gansner et al., "A
 * technique for drawing directed graphs", 1993).
 */
export function layOut({ strips: ids, tracks, lines: drawn }: Wiring): Layout {
  const graph = new graphlib.Graph({ multigraph: true });
  graph.setGraph({ rankdir: 'LR', nodesep: 16, edgesep: 12, ranksep: 130 });
  graph.setDefaultEdgeLabel(() => ({}));
  for (const id of ids) graph.setNode(id, { width: NODE_WIDTH, height: NODE_HEIGHT });
  for (const { id, fromId, toId, send } of drawn) graph.setEdge(fromId, toId, { weight: send ? 2 : 1 }, id);
  // Tracks begin at the left, whatever they feed.
  graph.setNode(SOURCE, { width: 0, height: 0 });
  for (const id of tracks) graph.setEdge(SOURCE, id, { weight: 100 }, SOURCE);
  layout(graph);
  graph.removeNode(SOURCE);
  const strips = new Map(
    graph.nodes().map((id) => {
      const { x, y } = graph.node(id) as Place;
      return [id, { x: x - NODE_WIDTH / 2, y: y - NODE_HEIGHT / 2 }] as const;
    }),
  );
  const lines = new Map(
    drawn.map(({ id, fromId, toId }) => {
      const { points } = graph.edge(fromId, toId, id) as { points: readonly Place[] };
      return [id, points] as const;
    }),
  );
  return { strips, lines };
}

/** Strips that one touches: what it feeds, what feeds it, what steers it or is steered by it. */
export function neighbours(connections: readonly Connection[], stripId: string): ReadonlySet<string> {
  const near = new Set([stripId]);
  for (const { fromId, toId } of connections) {
    if (fromId === stripId) near.add(toId);
    if (toId === stripId) near.add(fromId);
  }
  return near;
}

/** A smooth line from left to right through some places, level at each of them. */
export function pathThrough(places: readonly Place[]): string {
  return places
    .map(({ x, y }, n) => {
      const before = places[n - 1];
      if (!before) return `M${x} ${y}`;
      const middle = (before.x + x) / 2;
      return `C${middle} ${before.y} ${middle} ${y} ${x} ${y}`;
    })
    .join('');
}

/** A place on that line, `part` of its way across. */
export function placeAlong(places: readonly Place[], part: number): Place {
  const x = places[0]!.x + (places.at(-1)!.x - places[0]!.x) * part;
  const n = Math.max(
    1,
    places.findIndex((one) => one.x >= x),
  );
  const [from, to] = [places[n - 1]!, places[n]!];
  const share = to.x === from.x ? 0 : (x - from.x) / (to.x - from.x);
  return { x, y: from.y + (to.y - from.y) * share * share * (3 - 2 * share) };
}
