import fc from 'fast-check';
import { effectById } from '../effects/registry';
import { findParameter } from '../effects/spec';
import {
  copied,
  invert,
  movePoints,
  pasteAt,
  repeatTo,
  replaceWithin,
  scale,
  shapePoints,
  stretch,
  thin,
  withPoint,
} from './laneEdits';
import { applyCommand, type Command } from './commands';
import { compile } from './compile/compiler';
import { bent, cornersOf, curveOf, heightAt, heightOf, laneName, lanesInOrder, valueAtHeight } from './lanes';
import { newDocument } from './records/factories';
import type { Lane, Point } from './records/lanes';
import type { SessionDocument } from './records/document';
import { GAIN_PARAMETER, PAN_PARAMETER } from './stripParameters';

const TIMING = { tempoBpm: 120, beatsPerBar: 4 };
const at = (beat: number, value: Point['value'], shape: Point['shape'] = 'straight', bend = 0): Point => ({
  beat,
  value,
  shape,
  bend,
});
const lane = (id: string, ownerId: string, parameter: string, points: Point[], more: Partial<Lane> = {}): Command => ({
  type: 'lane.add',
  lane: { id, ownerId, parameter, on: true, points, mirrorOf: null, mirrorAmount: 100, ...more },
});

function build(...more: Command[]): SessionDocument {
  const commands: Command[] = [
    { type: 'session.set', values: { tempoBpm: 120 } },
    { type: 'track.add', id: 'a', name: 'A' },
    { type: 'track.add', id: 'b', name: 'B' },
    { type: 'return.add', id: 'r', name: 'R', role: 'return' },
    { type: 'insert.add', stripId: 'a', id: 'echo', effect: 'delay', index: 0 },
    { type: 'send.add', send: { id: 's', fromId: 'a', toId: 'r', gainDb: 0, tap: 'afterFader', mute: false } },
  ];
  return applyCommand(newDocument('Lanes'), { type: 'all', commands: [...commands, ...more] }, '').document;
}

const stripOf = (document: SessionDocument, id: string) => compile(document).strips.find((strip) => strip.id === id)!;

describe('lanes', () => {
  it('become curves of frames: straight, held and leaping', () => {
    const pan = stripOf(build(lane('l', 'a', 'pan', [at(0, -100), at(1, 100, 'hold'), at(2, 0)])), 'a').curves!.pan!;
    expect([...pan.frames]).toEqual([0, 24000, 48000, 48000]);
    expect([...pan.values]).toEqual([-1, 1, 1, 0]);
  });

  it('are straight on the ruler: a level moves evenly in what the eye sees', () => {
    const curve = stripOf(build(lane('l', 'a', 'gainDb', [at(0, -100), at(4, 0)])), 'a').curves!.gain!;
    const middle = curve.frames.indexOf(48000);
    const shown = valueAtHeight(GAIN_PARAMETER, heightOf(GAIN_PARAMETER, 0, TIMING) / 2) as number;
    expect(20 * Math.log10(curve.values[middle]!)).toBeCloseTo(shown, 6);
    expect([curve.values[0], curve.values.at(-1)]).toEqual([0, 1]);
  });

  it('move parameters that follow the tempo, and choices by steps', () => {
    const document = build(
      lane('t', 'echo', 'lines.1.timeLeft', [at(0, '1/8', 'hold'), at(2, '1/4d')]),
      lane('c', 'echo', 'lines.1.filterType', [at(0, 'off'), at(1, 'bandPass')]),
    );
    const { curves, effect } = stripOf(document, 'a').inserts[0]!;
    const spec = effectById(effect);
    const time = curves!.find((one) => spec.parameters[one.index]!.id === 'lines.1.timeLeft')!.curve;
    expect(time.values[0]).toBeCloseTo(250, 6);
    expect(time.values.at(-1)).toBeCloseTo(750, 6);
    const filter = curves!.find((one) => spec.parameters[one.index]!.id === 'lines.1.filterType')!.curve;
    const choices = findParameter(spec, 'lines.1.filterType') as { choices: readonly { id: string }[] };
    expect([...filter.values]).toEqual([0, 0, choices.choices.findIndex((one) => one.id === 'bandPass')]);
  });

  it('do nothing while held by hand or without points', () => {
    expect(stripOf(build(lane('l', 'a', 'pan', [at(0, 50)], { on: false })), 'a').curves).toBeUndefined();
    expect(stripOf(build(lane('l', 'a', 'pan', [])), 'a').curves).toBeUndefined();
  });

  it('multiply level and mute of a send, and mute steps to silence', () => {
    const document = build(
      lane('g', 's', 'gainDb', [at(0, 0, 'hold'), at(4, 0)]),
      lane('m', 's', 'mute', [at(0, false), at(1, true), at(2, false)]),
    );
    const curve = compile(document).edges.find((edge) => edge.id === 's')!.curve!;
    const value = (frame: number) => curve.values[curve.frames.lastIndexOf(frame)];
    expect([value(0), value(24000), value(48000)]).toEqual([1, 0, 1]);
  });

  it('mirror another lane around what their own control is set to', () => {
    const document = build(
      lane('l', 'a', 'pan', [at(0, -60), at(4, 20)]),
      { type: 'strip.set', id: 'b', values: { pan: 10 } },
      lane('m', 'b', 'pan', [], { mirrorOf: 'l', mirrorAmount: 50 }),
    );
    const corners = cornersOf(document, document.lanes.m!, TIMING);
    const pans = corners.map(({ height }) => valueAtHeight(PAN_PARAMETER, height) as number);
    expect(pans[0]).toBeCloseTo(30, 9);
    expect(pans[1]).toBeCloseTo(-10, 9);
    expect(() => applyCommand(document, { type: 'lane.set', id: 'l', values: { mirrorOf: 'm' } }, '')).toThrow(
      'mirror',
    );
    const gone = applyCommand(document, { type: 'lane.remove', id: 'l' }, '').document;
    expect(gone.lanes.m!.mirrorOf).toBeNull();
  });

  it('go with the sound of their clip', () => {
    const SOUND = 'd'.repeat(64);
    const document = build(
      { type: 'asset.add', asset: { id: SOUND, name: 'x', frames: 480000, sampleRateHz: 48000, channels: 1 } },
      {
        type: 'clip.add',
        clip: {
          id: 'c',
          trackId: 'a',
          source: { kind: 'sound', assetId: SOUND },
          name: 'c',
          startBeat: 4,
          offsetSeconds: 0,
          lengthSeconds: 4,
          gainDb: 0,
          fadeInSeconds: 0,
          fadeOutSeconds: 0,
          fadeInShape: 'smooth' as const,
          fadeOutShape: 'smooth' as const,
          reversed: false,
          mute: false,
        },
      },
      lane('l', 'c', 'gainDb', [at(0, 0, 'hold'), at(2, -6)]),
    );
    const frames = (of: SessionDocument, id: string) =>
      stripOf(of, 'a')
        .clips.find((clip) => clip.id === id)!
        .gainCurve!.frames.at(-1);
    expect(frames(document, 'c')).toBe(6 * 24000);
    const moved = applyCommand(document, { type: 'clip.set', id: 'c', values: { startBeat: 8 } }, '').document;
    expect(frames(moved, 'c')).toBe(10 * 24000);
    const split = applyCommand(document, { type: 'clip.split', id: 'c', atBeat: 5, newId: 'd' }, '').document;
    expect(frames(split, 'd')).toBe(6 * 24000);
    expect(laneName(split, split.lanes['d-gainDb']!)).toBe('c: Clip level');
  });

  it('stand in the order of what they move, whatever order they are stored in', () => {
    const document = build(
      lane('l1', 's', 'gainDb', [at(0, 0)]),
      lane('l2', 'echo', 'mix', [at(0, 30)]),
      lane('l3', 'a', 'pan', [at(0, 0)]),
      lane('l4', 'a', 'gainDb', [at(0, 0)]),
      { type: 'return.add', id: 'q', name: 'Q', role: 'return' },
      { type: 'send.add', send: { id: 't', fromId: 'a', toId: 'q', gainDb: 0, tap: 'afterFader', mute: false } },
      lane('l0', 't', 'gainDb', [at(0, 0)]),
    );
    const lanes = Object.values(document.lanes);
    const wanted = ['l4', 'l3', 'l2', 'l1', 'l0'];
    expect(lanesInOrder(document, lanes).map(({ id }) => id)).toEqual(wanted);
    expect(lanesInOrder(document, lanes.toReversed()).map(({ id }) => id)).toEqual(wanted);
  });

  it('are refused out of range, out of order, twice, and for what is not there', () => {
    const attempt = (command: Command) => () => applyCommand(build(), command, '');
    expect(attempt(lane('l', 'a', 'pan', [at(0, 140)]))).toThrow('pan takes 100 left to 100 right, not 140');
    expect(attempt(lane('l', 'a', 'pan', [at(2, 0), at(1, 0)]))).toThrow('in order');
    expect(attempt(lane('l', 'a', 'wobble', []))).toThrow('nothing wobble');
    expect(() => applyCommand(build(lane('l', 'a', 'pan', [])), lane('k', 'a', 'pan', []), '')).toThrow('lane already');
  });

  it('bend without leaving their ends', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: -1, max: 1, noNaN: true }),
        (part, bend) => {
          const value = bent(part, bend);
          expect(value).toBeGreaterThanOrEqual(0);
          expect(value).toBeLessThanOrEqual(1);
          expect(bent(1 - part, -bend)).toBeCloseTo(1 - value, 9);
        },
      ),
    );
    expect([bent(0, 0.7), bent(1, -0.7)]).toEqual([0, 1]);
    expect(bent(0.5, 1 / 3)).toBeCloseTo(0.75, 9);
  });

  it('read between their corners', () => {
    const corners = [
      { beat: 1, height: 0.2 },
      { beat: 3, height: 0.6 },
    ];
    expect([0, 1, 2, 3, 9].map((beat) => heightAt(corners, beat))).toEqual([0.2, 0.2, 0.4, 0.6, 0.6]);
    expect(heightAt([], 1)).toBeNull();
    expect(curveOf(PAN_PARAMETER, corners, 100).frames).toEqual([100, 300]);
  });
});

describe('edits of lanes', () => {
  const points = [at(0, 0), at(1, 50), at(2, -50), at(3, 0)];
  const all = new Set([0, 1, 2, 3]);
  const values = (list: readonly Point[]) => list.map((point) => point.value);
  const beats = (list: readonly Point[]) => list.map((point) => point.beat);

  it('move, invert, scale and stretch', () => {
    const moved = movePoints(points, new Set([1]), 1.5, 0.1, PAN_PARAMETER, TIMING);
    expect(beats(moved.points)).toEqual([0, 2, 2.5, 3]);
    expect([...moved.chosen]).toEqual([2]);
    expect(values(moved.points)[2]).toBeCloseTo(70, 6);
    expect(beats(movePoints(points, all, -4, 0, PAN_PARAMETER, TIMING).points)).toEqual([0, 1, 2, 3]);
    expect(values(invert(points, all, PAN_PARAMETER, TIMING))).toEqual([0, -50, 50, 0]);
    expect(values(scale(points, all, 50, PAN_PARAMETER, TIMING))).toEqual([0, 25, -25, 0]);
    expect(beats(stretch(points, all, 200))).toEqual([0, 2, 4, 6]);
  });

  it('copy, paste, repeat and replace', () => {
    const clipboard = copied(points, new Set([1, 2]));
    expect(beats(clipboard)).toEqual([0, 1]);
    expect(beats(pasteAt(points, clipboard, 2.5))).toEqual([0, 1, 2, 2.5, 3.5]);
    expect(beats(repeatTo(points, all, 4, 12))).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11]);
    expect(beats(repeatTo(points, all, 4, 9))).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9]);
    expect(beats(replaceWithin(points, [at(0.5, 1), at(2.5, 1)]))).toEqual([0, 0.5, 2.5, 3]);
    expect(values(withPoint(points, at(1, 9)))).toEqual([0, 9, -50, 0]);
  });

  it('make shapes between two values, one cycle every period', () => {
    const range = { from: 4, to: 8 };
    const shape = (name: Parameters<typeof shapePoints>[0]) =>
      shapePoints(name, range, 2, 0.25, 0.75, PAN_PARAMETER, 7);
    expect(values(shape('triangle'))).toEqual([-50, 50, -50, 50, -50]);
    expect(values(shape('rampUp'))).toEqual([-50, 50, -50, 50]);
    expect(values(shape('square'))).toEqual([50, -50, 50, -50]);
    const sine = shape('sine');
    expect(sine[4]!.value).toBeCloseTo(50, 3);
    expect(sine.at(-1)!.beat).toBe(8);
    expect(shape('randomSteps')).toEqual(shape('randomSteps'));
    for (const point of shape('randomSteps')) expect(Math.abs(point.value as number)).toBeLessThanOrEqual(50);
  });

  it('thin what was played to within a tolerance', () => {
    const played = Array.from({ length: 400 }, (_, n) => at(n / 100, 80 * Math.sin(n / 60)));
    const kept = thin(played, 0.01, PAN_PARAMETER, TIMING);
    expect(kept.length).toBeLessThan(30);
    const corners = kept.map((point) => ({ beat: point.beat, height: heightOf(PAN_PARAMETER, point.value, TIMING) }));
    for (const point of played) {
      const off = heightAt(corners, point.beat)! - heightOf(PAN_PARAMETER, point.value, TIMING);
      expect(Math.abs(off)).toBeLessThanOrEqual(0.0101);
    }
  });
});
