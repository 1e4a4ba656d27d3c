import { useMemo } from 'react';
import type { Edge, Node } from '@xyflow/react';
import { findEffect } from '@/core/effects/registry';
import type { SessionDocument } from '@/core/session/records/document';
import { allStrips, stripOf } from '@/core/session/records/queries';
import { MAIN_ID } from '@/core/session/records/strips';
import { connectionsOf, type Connection } from '@/core/session/routing';
import { useStudioState } from '../session/StudioContext';
import { earsOf } from './ears';
import {
  connectionId,
  drawnConnections,
  foldedAway,
  layOut,
  neighbours,
  NODE_HEIGHT,
  NODE_WIDTH,
  steers,
  wiringOf,
  type Wiring,
} from './layout';
import type { SignalEdge } from './SignalLine';
import { KEY_HANDLE, type StripNodeType } from './StripNode';

const VERBS: Record<Connection['kind'], string> = {
  send: 'sends to',
  output: 'goes to',
  key: 'keys',
  follow: 'is followed by',
};

export interface Drawing {
  /** Strips in folded groups, and the group on which each is drawn. */
  readonly away: ReadonlyMap<string, string>;
  readonly connections: ReturnType<typeof drawnConnections>;
  readonly shown: ReadonlySet<string>;
  readonly places: ReturnType<typeof layOut>;
}

/**
 * The strips and connections that are shown, and their layout, which changes only with the routing.
 * @param near shows only the selected strip and what it touches
 */
export function useDrawing(folded: ReadonlySet<string>, near: boolean): Drawing {
  const { document, stripId } = useStudioState(({ document, stripId }) => ({ document, stripId }));
  const away = useMemo(() => foldedAway(document, folded), [document, folded]);
  const connections = useMemo(() => drawnConnections(connectionsOf(document), away), [document, away]);
  const shown = useMemo(() => {
    const ids = allStrips(document).flatMap(({ id }) => (away.has(id) ? [] : [id]));
    const touched = near ? neighbours(connections, away.get(stripId) ?? stripId) : null;
    return new Set(ids.filter((id) => touched?.has(id) ?? true));
  }, [near, connections, stripId, document, away]);
  const wiring = JSON.stringify(wiringOf(document, connections, shown));
  const places = useMemo(() => layOut(JSON.parse(wiring) as Wiring), [wiring]);
  return { away, connections, shown, places };
}

interface NodeState {
  readonly stripId: string;
  readonly folded: ReadonlySet<string>;
  readonly turnFold: (id: string) => void;
  readonly isDim: (name: string) => boolean;
}

export function nodesOf(document: SessionDocument, { connections, shown, places }: Drawing, state: NodeState): Node[] {
  const { stripId, folded, turnFold, isDim } = state;
  const foldOf = (id: string) => {
    if (document.returns[id]?.role !== 'group') return null;
    const count = foldedAway(document, new Set([id])).size;
    return count === 0 ? null : { count, away: folded.has(id), turn: () => turnFold(id) };
  };
  const strips = allStrips(document).filter(({ id }) => shown.has(id));
  return strips.map((strip): StripNodeType => ({
    id: strip.id,
    type: 'strip',
    ariaLabel: `${strip.name}, ${strip.insertIds.length} effects`,
    position: places.strips.get(strip.id)!,
    selected: strip.id === stripId,
    // Known sizes: without them every change would be measured anew, and lines would go and come.
    measured: { width: NODE_WIDTH, height: NODE_HEIGHT },
    draggable: false,
    deletable: false,
    data: {
      name: strip.name,
      kind: strip.id === MAIN_ID ? 'main' : (document.returns[strip.id]?.role ?? 'track'),
      effects: strip.insertIds.map((id) => findEffect(document.inserts[id]!.effect)!.name).join(', '),
      keyed:
        earsOf(document, strip.id).length > 0 ||
        connections.some((one) => one.kind === 'follow' && one.toId === strip.id),
      silent: strip.mute,
      dim: isDim(strip.name),
      fold: foldOf(strip.id),
    },
  }));
}

export function edgesOf(
  document: SessionDocument,
  within: Drawing['connections'],
  places: Drawing['places'],
  chosen: string | null,
): Edge[] {
  const nameOf = (id: string) => stripOf(document, id)!.name;
  return within.map((connection): SignalEdge => ({
    id: connectionId(connection),
    type: 'signal',
    ariaLabel: `${nameOf(connection.fromId)} ${VERBS[connection.kind]} ${nameOf(connection.toId)}`,
    source: connection.fromId,
    target: connection.toId,
    ...(steers(connection) ? { targetHandle: KEY_HANDLE } : {}),
    selected: connectionId(connection) === chosen,
    data: {
      kind: connection.kind,
      ownerId: connection.id,
      folded: connection.folded,
      places: places.lines.get(connectionId(connection)) ?? null,
      label: places.labels.get(connectionId(connection)) ?? null,
      wet: document.returns[connection.fromId]?.role === 'return' || connection.kind === 'send',
    },
  }));
}
