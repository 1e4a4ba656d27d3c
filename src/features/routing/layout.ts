import { graphlib, layout } from '@dagrejs/dagre';
import { allStrips, type SessionDocument } from '@/core/session/records';
import { connectionsOf } from '@/core/session/routing';

export const NODE_WIDTH = 148;
export const NODE_HEIGHT = 50;

/** Places of all strips, left to right in the direction of the sound. */
export function placeStrips(document: SessionDocument): Map<string, { x: number; y: number }> {
  const graph = new graphlib.Graph({ multigraph: true });
  graph.setGraph({ rankdir: 'LR', nodesep: 14, ranksep: 120, ranker: 'longest-path' });
  for (const strip of allStrips(document)) graph.setNode(strip.id, { width: NODE_WIDTH, height: NODE_HEIGHT });
  for (const { kind, id, fromId, toId } of connectionsOf(document)) {
    graph.setEdge(fromId, toId, { weight: kind === 'output' ? 1 : 2 }, `${kind} ${id}`);
  }
  layout(graph);
  return new Map(
    allStrips(document).map((strip) => {
      const { x, y } = graph.node(strip.id) as { x: number; y: number };
      return [strip.id, { x: x - NODE_WIDTH / 2, y: y - NODE_HEIGHT / 2 }];
    }),
  );
}
