import { graphlib, layout } from '@dagrejs/dagre';
import { allStrips, channelOf, channels } from '@/core/session/records/queries';
import type { SessionDocument } from '@/core/session/records/document';
import type { Connection } from '@/core/session/routing';

export const NODE_WIDTH = 148;
export const NODE_HEIGHT = 50;

/** Virtual node before all tracks during the layout. */
const SOURCE = 'source of all tracks';

export interface Place {
  readonly x: number;
  readonly y: number;
}

export interface Layout {
  /** Top left corners of strips. */
  readonly strips: ReadonlyMap<string, Place>;
  /** Paths of sound lines around obstacles, by `connectionId`. */
  readonly lines: ReadonlyMap<string, readonly Place[]>;
  /** Positions of the sends' levels, clear of one another and of strips where there is room. */
  readonly labels: ReadonlyMap<string, Place>;
}

/** A follower can steer several strips. */
export const connectionId = ({ kind, id, slot, toId }: Connection): string =>
  kind === 'follow' ? `${kind} ${id} ${toId}` : kind === 'key' ? `${kind} ${id} ${slot}` : `${kind} ${id}`;

export const steers = ({ kind }: Connection): boolean => kind === 'key' || kind === 'follow';

/** A connection as it is drawn. */
export interface Drawn extends Connection {
  /** It comes from or goes to what is folded away: it stands for all those alike. */
  readonly folded: boolean;
}

/** Strips in folded groups, and the outermost folded group on which each is drawn. */
export function foldedAway(document: SessionDocument, folded: ReadonlySet<string>): ReadonlyMap<string, string> {
  const away = new Map<string, string>();
  for (const { id } of channels(document)) {
    for (let at = channelOf(document, id); at; at = channelOf(document, at.outputId)) {
      if (folded.has(at.outputId)) away.set(id, at.outputId);
    }
  }
  return away;
}

/** Connections as they are drawn while some strips are folded away; those alike are one. */
export function drawnConnections(connections: readonly Connection[], away: ReadonlyMap<string, string>): Drawn[] {
  const seen = new Set<string>();
  return connections.flatMap((connection): Drawn[] => {
    const fromId = away.get(connection.fromId) ?? connection.fromId;
    const toId = away.get(connection.toId) ?? connection.toId;
    const folded = fromId !== connection.fromId || toId !== connection.toId;
    const alike = `${connection.kind} ${fromId} ${toId}`;
    if (fromId === toId || (folded && seen.has(alike))) return [];
    seen.add(alike);
    return [{ ...connection, fromId, toId, folded }];
  });
}

/** The part of a document that the drawing depends on, as plain data: it is laid out anew only when this changes. */
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
  graph.setGraph({ rankdir: 'LR', nodesep: 16, edgesep: 12, ranksep: 150 });
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
      const [from, to] = [strips.get(fromId)!, strips.get(toId)!];
      const middle = NODE_HEIGHT / 2;
      return [
        id,
        [{ x: from.x + NODE_WIDTH, y: from.y + middle }, ...points.slice(1, -1), { x: to.x, y: to.y + middle }],
      ] as const;
    }),
  );
  const sends = drawn.filter(({ send }) => send).map(({ id }) => id);
  return { strips, lines, labels: labelsOn(sends, lines, [...strips.values()]) };
}

/** Size of a send's level in the drawing, with a margin. */
const LABEL = { width: 62, height: 22 };
/** Parts of its way at which it may stand, those near the return first. */
const BEST_STAND = 0.86;
const STANDS = Array.from({ length: 41 }, (_, n) => 0.1 + 0.02 * n).sort(
  (a, b) => Math.abs(a - BEST_STAND) - Math.abs(b - BEST_STAND),
);

/** Places on lines for labels, each where nothing is yet; those with the least choice take theirs first. */
function labelsOn(ids: readonly string[], lines: Layout['lines'], strips: readonly Place[]): Map<string, Place> {
  const offStrips = ({ x, y }: Place) =>
    strips.every(
      (strip) =>
        x + LABEL.width / 2 <= strip.x ||
        x - LABEL.width / 2 >= strip.x + NODE_WIDTH ||
        y + LABEL.height / 2 <= strip.y ||
        y - LABEL.height / 2 >= strip.y + NODE_HEIGHT,
    );
  const off = (one: Place) => (other: Place) =>
    Math.abs(one.x - other.x) >= LABEL.width || Math.abs(one.y - other.y) >= LABEL.height;
  const labels = new Map<string, Place>();
  let waiting = ids.map((id) => {
    const stands = STANDS.map((part) => placeAlong(lines.get(id)!, part));
    return { id, best: stands[0]!, free: stands.filter(offStrips) };
  });
  while (waiting.length > 0) {
    const next = waiting.reduce((a, b) => (b.free.length < a.free.length ? b : a));
    const place = next.free[0] ?? next.best;
    labels.set(next.id, place);
    waiting = waiting.filter((one) => one !== next).map((one) => ({ ...one, free: one.free.filter(off(place)) }));
  }
  return labels;
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
