import { readFileSync } from 'node:fs';
import { applyCommand, type Command } from '@/core/session/commands';
import { newDocument, newSend } from '@/core/session/records/factories';
import type { SessionDocument } from '@/core/session/records/document';
import { validateDocument } from '@/core/session/document';
import { connectionsOf } from '@/core/session/routing';
import {
  drawnConnections,
  foldedAway,
  layOut,
  neighbours,
  NODE_HEIGHT,
  NODE_WIDTH,
  pathThrough,
  placeAlong,
  wiringOf,
  type Place,
} from './layout';

const build = (tracks: number, returns: number): SessionDocument => {
  const commands: Command[] = [
    ...Array.from({ length: tracks }, (_, n): Command => ({ type: 'track.add', id: `t${n}`, name: `Track ${n}` })),
    ...Array.from({ length: returns }, (_, n): Command => ({
      type: 'return.add',
      id: `r${n}`,
      name: `Return ${n}`,
      role: 'return',
    })),
    ...Array.from({ length: tracks }, (_, n): Command => ({
      type: 'send.add',
      send: newSend(`s${n}`, `t${n}`, `r${n % returns}`),
    })),
    { type: 'send.add', send: newSend('chain', 'r0', `r${returns - 1}`) },
  ];
  return applyCommand(newDocument('Drawn'), { type: 'all', commands }, '').document;
};
const everything = (document: SessionDocument) =>
  new Set(['main', ...document.session.trackIds, ...document.session.returnIds]);

describe('the drawing of a routing', () => {
  it.each([
    [3, 2],
    [32, 8],
  ])('of %d tracks and %d returns goes left to right, with nothing over anything else', (tracks, returns) => {
    const document = build(tracks, returns);
    const connections = connectionsOf(document);
    const { strips, lines } = layOut(wiringOf(document, connections, everything(document)));
    expect(strips.size).toBe(tracks + returns + 1);
    for (const { fromId, toId } of connections) {
      expect(strips.get(toId)!.x).toBeGreaterThan(strips.get(fromId)!.x + NODE_WIDTH);
    }
    const places = [...strips.values()];
    for (const [n, a] of places.entries()) {
      for (const b of places.slice(n + 1)) {
        expect(Math.abs(a.x - b.x) >= NODE_WIDTH || Math.abs(a.y - b.y) >= NODE_HEIGHT).toBe(true);
      }
    }
    // No line passes through a strip that is not at one of its ends.
    for (const { id, kind, fromId, toId } of connections) {
      const through = lines.get(`${kind} ${id}`)!.slice(1, -1);
      for (const { x, y } of through) {
        for (const [strip, at] of strips) {
          if (strip === fromId || strip === toId) continue;
          const inside = x > at.x && x < at.x + NODE_WIDTH && y > at.y && y < at.y + NODE_HEIGHT;
          expect(inside).toBe(false);
        }
      }
    }
  });

  it('shows what a strip touches alone', () => {
    const document = build(6, 2);
    const connections = connectionsOf(document);
    expect([...neighbours(connections, 't1')].sort()).toEqual(['main', 'r1', 't1']);
    expect([...neighbours(connections, 'r0')].sort()).toEqual(['main', 'r0', 'r1', 't0', 't2', 't4']);
    const { strips, lines } = layOut(wiringOf(document, connections, neighbours(connections, 't1')));
    expect([...strips.keys()].sort()).toEqual(['main', 'r1', 't1']);
    expect(lines.size).toBe(3);
  });

  const crossed = () => {
    const second = Array.from({ length: 12 }, (_, n): Command => ({
      type: 'send.add',
      send: newSend(`u${n}`, `t${n}`, `r${(n + 1) % 4}`),
    }));
    return applyCommand(build(12, 4), { type: 'all', commands: second }, '').document;
  };
  const demo = () => validateDocument(JSON.parse(readFileSync('demo/session.json', 'utf8')));

  it.each([
    ['two sends of every track', crossed],
    ['the demo, where one voice feeds six returns', demo],
  ])('keeps levels of sends off one another and off strips: %s', (_, make) => {
    const document = make();
    const { labels, strips, lines } = layOut(wiringOf(document, connectionsOf(document), everything(document)));
    expect(labels.size).toBe(Object.keys(document.sends).length);
    const places = [...labels.values()];
    for (const [n, a] of places.entries()) {
      for (const b of places.slice(n + 1)) expect(Math.abs(a.x - b.x) >= 60 || Math.abs(a.y - b.y) >= 20).toBe(true);
      for (const { x, y } of strips.values()) {
        expect(a.x > x && a.x < x + NODE_WIDTH && a.y > y && a.y < y + NODE_HEIGHT).toBe(false);
      }
    }
    // Each is on its line.
    for (const [id, { x, y }] of labels) {
      const line = lines.get(id)!;
      expect(placeAlong(line, (x - line[0]!.x) / (line.at(-1)!.x - line[0]!.x)).y).toBeCloseTo(y, 6);
    }
  });

  it('folds groups away: what leads into one is drawn on it, and lines that are alike are one', () => {
    const grouped: Command[] = [
      { type: 'return.add', id: 'all', name: 'All', role: 'group' },
      { type: 'return.add', id: 'some', name: 'Some', role: 'group' },
      { type: 'strip.set', id: 'some', values: { outputId: 'all' } },
      { type: 'strip.set', id: 't0', values: { outputId: 'some' } },
      { type: 'strip.set', id: 't2', values: { outputId: 'some' } },
      { type: 'strip.set', id: 't1', values: { outputId: 'all' } },
    ];
    const document = applyCommand(build(4, 2), { type: 'all', commands: grouped }, '').document;
    const folded = (...ids: string[]) => Object.fromEntries(foldedAway(document, new Set(ids)));
    expect(folded()).toEqual({});
    expect(folded('some')).toEqual({ t0: 'some', t2: 'some' });
    expect(folded('all', 'some')).toEqual({ t0: 'all', t1: 'all', t2: 'all', some: 'all' });
    const drawn = drawnConnections(connectionsOf(document), foldedAway(document, new Set(['some'])));
    // Both sends of its tracks go to the same return.
    const sends = drawn.filter(({ kind, fromId }) => kind === 'send' && fromId === 'some');
    expect(sends.map(({ toId, folded }) => [toId, folded])).toEqual([['r0', true]]);
    expect(drawn.filter(({ fromId, toId }) => fromId === toId || fromId === 't0')).toEqual([]);
    expect(drawn.find(({ kind, fromId }) => kind === 'send' && fromId === 't1')!.folded).toBe(false);
    const shown = new Set([...everything(document)].filter((id) => id !== 't0' && id !== 't2'));
    expect(layOut(wiringOf(document, drawn, shown)).strips.has('some')).toBe(true);
  });

  it('draws a line through its places, level at each, and finds places along it', () => {
    const places: Place[] = [
      { x: 0, y: 0 },
      { x: 10, y: 20 },
      { x: 30, y: 0 },
    ];
    expect(pathThrough(places)).toBe('M0 0C5 0 5 20 10 20C20 20 20 0 30 0');
    expect(placeAlong(places, 0)).toEqual({ x: 0, y: 0 });
    expect(placeAlong(places, 1 / 3)).toEqual({ x: 10, y: 20 });
    expect(placeAlong(places, 1 / 6)).toEqual({ x: 5, y: 10 });
    expect(placeAlong(places, 1)).toEqual({ x: 30, y: 0 });
  });
});
