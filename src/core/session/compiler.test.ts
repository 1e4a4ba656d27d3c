import { SEED, thinned } from '../../../test/support/sweep';
import { readFileSync } from 'node:fs';
import { type Plan } from '../engine/plan';
import { changesBetween, deltaOf, withDelta } from '../engine/planChanges';
import { SeededRandom } from '../math/random';
import { applyCommand, type Command } from './commands';
import { compile, Compiler } from './compile/compiler';
import { validateDocument } from './document';
import type { SessionDocument } from './records/document';

const demo = validateDocument(JSON.parse(readFileSync('demo/session.json', 'utf8')));

/** A plan as plain data: curves that have travelled are packed. */
const plain = (plan: Plan) =>
  JSON.parse(
    JSON.stringify(plan, (_, value: unknown) => (ArrayBuffer.isView(value) ? [...(value as Float64Array)] : value)),
  ) as Plan;

const random = new SeededRandom(SEED);
const pick = <T>(all: readonly T[]): T => all[Math.floor(random.uniform() * all.length)]!;

/** An edit of some kind that the session allows. */
function anEdit(document: SessionDocument): Command {
  const lane = pick(Object.values(document.lanes));
  const clip = pick(Object.values(document.clips));
  const track = pick(Object.values(document.tracks));
  const insert = pick(Object.values(document.inserts));
  const send = pick(Object.values(document.sends));
  return pick<() => Command>([
    () => ({ type: 'lane.set', id: lane.id, values: { on: !lane.on } }),
    () => {
      const place = Math.floor(random.uniform() * lane.points.length);
      const points = lane.points.map((point, n) =>
        n === place ? { ...point, value: pick(lane.points).value } : point,
      );
      return { type: 'lane.set', id: lane.id, values: { points } };
    },
    () => ({ type: 'lane.set', id: lane.id, values: { points: lane.points.slice(0, -1) } }),
    () => ({ type: 'clip.set', id: clip.id, values: { startBeat: clip.startBeat + 0.25 } }),
    () => ({ type: 'clip.set', id: clip.id, values: { gainDb: -6 * random.uniform() } }),
    () => ({ type: 'strip.set', id: track.id, values: { gainDb: -20 * random.uniform() } }),
    () => ({ type: 'strip.set', id: track.id, values: { mute: !track.mute } }),
    () => ({ type: 'strip.set', id: track.id, values: { solo: !track.solo } }),
    () => ({ type: 'insert.bypass', id: insert.id, bypass: !insert.bypass }),
    () => ({ type: 'send.set', id: send.id, values: { gainDb: -20 * random.uniform() } }),
    () => ({ type: 'session.set', values: { tempoBpm: 80 + Math.floor(10 * random.uniform()) } }),
    () => ({ type: 'session.set', values: { effectsOff: !document.session.effectsOff } }),
  ])();
}

function* courseOfEdits(count: number): Generator<SessionDocument> {
  let document = demo;
  for (let n = 0; n < count; n++) {
    document = applyCommand(document, anEdit(document), 'edit').document;
    yield document;
  }
}

describe('a compiler that remembers', () => {
  it('makes of every document what one that does not makes, and leaves what has not changed as it is', () => {
    const compiler = new Compiler();
    let before = compiler.compile(demo);
    let kept = 0;
    for (const document of courseOfEdits(thinned(250))) {
      const plan = compiler.compile(document);
      const fresh = compile(document);
      expect(plan).toEqual(fresh);
      plan.strips.forEach((strip) => {
        const old = before.strips.find(({ id }) => id === strip.id);
        if (strip === old) kept++;
      });
      before = plan;
    }
    expect(kept).toBeGreaterThan(4 * thinned(250));
  });

  it('lets plans travel as what has changed, changes of values in between included', () => {
    const compiler = new Compiler();
    let plan = compiler.compile(demo);
    let sent = plan;
    let there = withDelta(null, deltaOf(null, plan));
    let travelled = 0;
    for (const document of courseOfEdits(150)) {
      const next = compiler.compile(document);
      if (changesBetween(plan, next) === null) {
        const delta = structuredClone(deltaOf(sent, next));
        travelled += delta.strips.length;
        there = withDelta(there, delta);
        sent = next;
        expect(plain(there)).toEqual(plain(next));
      }
      plan = next;
    }
    expect(travelled).toBeGreaterThan(20);
  });

  it('tells a change of values from one of structure', () => {
    const plan = compile(demo);
    const track = Object.values(demo.tracks)[0]!;
    const louder = applyCommand(demo, { type: 'strip.set', id: track.id, values: { gainDb: -3 } }, 'edit').document;
    expect(changesBetween(plan, compile(louder))).toEqual([
      {
        kind: 'level',
        stripId: track.id,
        gain: expect.closeTo(0.7079, 4),
        pan: track.pan / 100,
        stereoPan: false,
        audible: true,
      },
    ]);
    expect(changesBetween(plan, compile(demo))).toEqual([]);
    const lane = Object.values(demo.lanes)[0]!;
    const moved = { ...lane.points[0]!, beat: lane.points[0]!.beat + 0.01 };
    const bent: Command = { type: 'lane.set', id: lane.id, values: { points: [moved, ...lane.points.slice(1)] } };
    expect(changesBetween(plan, compile(applyCommand(demo, bent, 'edit').document))).toBeNull();
  });
});
