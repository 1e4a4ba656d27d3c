import { KinetikonError } from '../errors';
import { allStrips, channelOf, channels, stripOf, stripOfInsert } from './records/queries';
import { compareIds } from './compareIds';
import { MAIN_ID, type Return, type Send, type Track } from './records/strips';
import type { SessionDocument } from './records/document';

/** One strip feeding or steering another. */
export interface Connection {
  readonly kind: 'output' | 'send' | 'key' | 'follow';
  /** The send, the insert that listens or the modulator; for an output the strip it leaves. */
  readonly id: string;
  /** Input slot of the insert, for a side chain. */
  readonly slot?: string;
  readonly fromId: string;
  readonly toId: string;
}

/** Sends by their strips in the order of the lists, then by id: stored records have no order that can be relied on. */
function sendsInOrder(document: SessionDocument): Send[] {
  const position = new Map(channels(document).map(({ id }, index) => [id, index]));
  const at = (id: string) => position.get(id) ?? position.size;
  return Object.values(document.sends).sort(
    (a, b) => at(a.fromId) - at(b.fromId) || at(a.toId) - at(b.toId) || compareIds(a, b),
  );
}

/** Every path of sound, every key and every follower of a session, in an order that does not depend on that of records. */
export function connectionsOf(document: SessionDocument): Connection[] {
  const connections: Connection[] = [];
  for (const strip of channels(document)) {
    connections.push({ kind: 'output', id: strip.id, fromId: strip.id, toId: strip.outputId });
  }
  for (const send of sendsInOrder(document)) {
    connections.push({ kind: 'send', id: send.id, fromId: send.fromId, toId: send.toId });
  }
  for (const strip of allStrips(document)) {
    for (const id of strip.insertIds) {
      const { inputs = {} } = document.inserts[id] ?? {};
      for (const slot of Object.keys(inputs).sort()) {
        connections.push({ kind: 'key', id, slot, fromId: inputs[slot]!.stripId, toId: strip.id });
      }
    }
  }
  for (const { id, on, kind, followId, followTap, targets } of Object.values(document.modulators).sort(compareIds)) {
    if (!on || kind !== 'follower' || !followId || followTap === 'effectInput') continue;
    const moved = new Set(
      targets.flatMap(({ insertId }) => {
        const { id: stripId } = stripOfInsert(document, insertId)!;
        // A modulator of a place also moves the strips opposite to it.
        const led = channels(document).filter(({ oppositeOf }) => oppositeOf === stripId);
        const places = channelOf(document, stripId)?.placeId === insertId ? led : [];
        return [stripId, ...places.map((one) => one.id)];
      }),
    );
    for (const toId of moved) connections.push({ kind: 'follow', id, fromId: followId, toId });
  }
  return connections;
}

/** True for connections that carry sound, false for side chains and followers. */
export function carriesSound({ kind }: Connection): boolean {
  return kind === 'output' || kind === 'send';
}

/**
 * The strips in signal order, each after everything that feeds or keys it, the main output last.
 * @throws KinetikonError session.loop with the names along the loop
 */
export function signalOrder(document: SessionDocument, connections = connectionsOf(document)): string[] {
  const feeds = new Map<string, string[]>();
  for (const { fromId, toId } of connections) feeds.set(toId, [...(feeds.get(toId) ?? []), fromId]);
  const order: string[] = [];
  const done = new Set<string>();
  const visit = (id: string, trail: readonly string[]) => {
    if (done.has(id)) return;
    if (trail.includes(id)) {
      const loop = [...trail.slice(trail.indexOf(id)), id].reverse();
      const path = loop.map((one) => stripOf(document, one)?.name ?? one).join(' → ');
      throw new KinetikonError('session.loop', `This would lead the sound in a circle: ${path}.`, {
        kept: 'Nothing was changed.',
        next: 'Repeats that feed themselves belong inside an effect, as its feedback.',
      });
    }
    for (const from of feeds.get(id) ?? []) visit(from, [...trail, id]);
    done.add(id);
    order.push(id);
  };
  for (const strip of channels(document)) visit(strip.id, []);
  visit(MAIN_ID, []);
  return order;
}

/** Strips reached from some along connections; `back` follows them against the signal. */
export function reachOf(ids: ReadonlySet<string>, connections: readonly Connection[], back: boolean): Set<string> {
  const reached = new Set(ids);
  for (let grown = true; grown;) {
    grown = false;
    for (const { fromId, toId } of connections) {
      const [near, far] = back ? [toId, fromId] : [fromId, toId];
      if (!reached.has(near) || reached.has(far)) continue;
      reached.add(far);
      grown = true;
    }
  }
  return reached;
}

/** The strips that a modulator of effects on some strips can follow without leading the sound in a circle. */
export function followable(document: SessionDocument, movedStripIds: ReadonlySet<string>): (Track | Return)[] {
  const fed = reachOf(movedStripIds, connectionsOf(document), false);
  return channels(document).filter(({ id }) => !fed.has(id));
}
