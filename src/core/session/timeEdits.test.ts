import { thinned } from '../../../test/support/sweep';
import fc from 'fast-check';
import { Noise } from '../dsp/noise';
import { renderPlan } from '../engine/render';
import { applyCommand, applyStep, type Command } from './commands';
import { compile } from './compile/compiler';
import { cornersOf, heightAt } from './lanes';
import { newClip, newDocument } from './records/factories';
import { timingOf } from './records/queries';
import type { Point } from './records/lanes';
import type { SessionDocument } from './records/document';

const SOUND = 'f'.repeat(64);
const RATE = 48000;
/** At 120 beats a minute. */
const PER_BEAT = RATE / 2;
const BEATS = 12;
const noise = new Noise(5);
const sound = Float32Array.from({ length: BEATS * PER_BEAT }, () => 0.3 * noise.white());
const samples = new Map([[SOUND, { left: sound, right: sound }]]);
const point = (beat: number, value: number, shape: Point['shape'] = 'straight'): Point => ({
  ...{ beat, value, shape, bend: 0 },
});

/** Eight beats of noise from beat 2 on, a note, a section, a loop and two lanes. */
function build(): SessionDocument {
  const commands: Command[] = [
    { type: 'session.set', values: { tempoBpm: 120, loopOn: true, loopStartBeat: 4, loopEndBeat: 8 } },
    { type: 'asset.add', asset: { id: SOUND, name: 'n.wav', frames: sound.length, sampleRateHz: RATE, channels: 1 } },
    { type: 'track.add', id: 'hiss', name: 'Hiss' },
    {
      type: 'clip.add',
      clip: newClip({
        ...{ id: 'clip', trackId: 'hiss', name: 'hiss', startBeat: 2, lengthSeconds: 4 },
        source: { kind: 'sound', assetId: SOUND },
      }),
    },
    {
      type: 'note.add',
      notes: [{ id: 'note', ownerId: 'hiss', startBeat: 5, lengthBeats: 2, key: 60, velocity: 90 }],
    },
    { type: 'section.add', section: { id: 'verse', name: 'verse', startBeat: 4, lengthBeats: 4 } },
    ...(
      [
        ['gainDb', [point(0, -30), point(12, 0)]],
        ['pan', [point(3, -80, 'hold'), point(7, 60)]],
      ] as [string, Point[]][]
    ).map(([parameter, points]): Command => ({
      type: 'lane.add',
      lane: { ...{ id: parameter, ownerId: 'hiss', parameter, on: true, mirrorOf: null, mirrorAmount: 100 }, points },
    })),
  ];
  return applyCommand(newDocument('Time'), { type: 'all', commands }, '').document;
}

const session = build();
const rendered = (document: SessionDocument, beats: number) =>
  renderPlan(compile(document), samples, { fromFrame: 0, toFrame: beats * PER_BEAT, tailSeconds: 0 })!.left;
const does = (document: SessionDocument, command: Command) => applyCommand(document, command, '');
const height = (document: SessionDocument, laneId: string, beat: number) =>
  heightAt(cornersOf(document, document.lanes[laneId]!, timingOf(document)), beat);
const time = (type: 'time.insert' | 'time.delete', atBeat: number, beats: number): Command => ({
  ...{ type, atBeat, beats, newId: 'new' },
});

/** Within what a ramp of level is rounded by that is laid out in other pieces. */
const same = (one: number, other: number) =>
  expect(Math.abs(one - other)).toBeLessThanOrEqual(0.005 * Math.abs(other) + 1e-9);

describe('time of all tracks', () => {
  it('put in, moves everything behind it and leaves silence, to the frame', () => {
    const { document, step } = does(session, time('time.insert', 6, 3));
    const [before, after] = [rendered(session, 12), rendered(document, 15)];
    const at = 6 * PER_BEAT;
    for (let n = 0; n < at; n += 101) same(after[n]!, before[n]!);
    expect(after.subarray(at + 64, at + 3 * PER_BEAT).every((x) => x === 0)).toBe(true);
    const [behind, was] = [after.subarray(at + 3 * PER_BEAT), before.subarray(at)];
    for (let n = 0; n < was.length; n += 101) same(behind[n]!, was[n]!);
    expect(document.notes.note).toMatchObject({ startBeat: 5, lengthBeats: 5 });
    expect(document.sections.verse).toMatchObject({ startBeat: 4, lengthBeats: 7 });
    expect(document.session).toMatchObject({ loopStartBeat: 4, loopEndBeat: 11 });
    expect(applyStep(document, step.inverse)).toEqual(session);
  });

  it('at the beginning, moves all there is', () => {
    const { document } = does(session, time('time.insert', 0, 4));
    expect(Object.values(document.clips).map(({ startBeat }) => startBeat)).toEqual([6]);
    expect(document.notes.note!.startBeat).toBe(9);
    expect(document.lanes.gainDb!.points.map(({ beat }) => beat)).toEqual([4, 16]);
    expect(document.session).toMatchObject({ loopStartBeat: 8, loopEndBeat: 12 });
  });

  it('put in and taken out again, sounds as before; lanes run as they ran', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 11, noNaN: true }),
        fc.double({ min: 0.1, max: 6, noNaN: true }),
        (at, beats) => {
          const longer = does(session, time('time.insert', at, beats)).document;
          const back = does(longer, { ...time('time.delete', at, beats), newId: 'back' } as Command).document;
          for (const lane of ['gainDb', 'pan']) {
            for (let beat = 0.05; beat < 12; beat += 0.37) {
              const shifted = beat < at ? beat : beat + beats;
              expect(height(longer, lane, shifted)).toBeCloseTo(height(session, lane, beat)!, 3);
              expect(height(back, lane, beat)).toBeCloseTo(height(session, lane, beat)!, 3);
            }
          }
          expect(back.notes.note!.startBeat).toBeCloseTo(5, 9);
          expect(back.notes.note!.lengthBeats).toBeCloseTo(2, 9);
          const [one, other] = [rendered(back, 12), rendered(session, 12)];
          // Beats to frames and back: clips begin within a frame of where they began.
          const level = (x: Float32Array) => Math.sqrt(x.reduce((sum, y) => sum + y * y, 0) / x.length);
          expect(level(one) / level(other)).toBeCloseTo(1, 3);
        },
      ),
      { numRuns: thinned(25) },
    );
  });

  it('keeps the course of a lane whose points stand where the time is put in or taken out', () => {
    const points = [point(0, -30), point(4, -6), point(4, -20), point(8, 0), point(12, -9)];
    const stepped = does(session, { type: 'lane.set', id: 'gainDb', values: { points } }).document;
    for (const at of [4, 8, 12]) {
      const longer = does(stepped, time('time.insert', at, 2)).document;
      const cut = does(stepped, time('time.delete', at - 2, 2)).document;
      const ends = does(stepped, time('time.delete', at, 2)).document;
      for (let beat = 0.1; beat < 12; beat += 0.2) {
        const [was, shifted] = [height(stepped, 'gainDb', beat)!, beat < at ? beat : beat + 2];
        expect(height(longer, 'gainDb', shifted)).toBeCloseTo(was, 6);
        if (beat < at - 2) expect(height(cut, 'gainDb', beat)).toBeCloseTo(was, 6);
        if (beat > at) expect(height(cut, 'gainDb', beat - 2)).toBeCloseTo(was, 6);
        if (beat < at) expect(height(ends, 'gainDb', beat)).toBeCloseTo(was, 6);
        if (beat > at + 2) expect(height(ends, 'gainDb', beat - 2)).toBeCloseTo(was, 6);
      }
      // Meanwhile it stays at what it had come to.
      const come = height(stepped, 'gainDb', at - 1e-9)!;
      for (const into of [0.1, 1, 1.9]) expect(height(longer, 'gainDb', at + into)).toBeCloseTo(come, 6);
    }
  });

  it('taken out, takes along what lies in it and cuts what lies across', () => {
    const { document, step } = does(session, time('time.delete', 4, 4));
    const [before, after] = [rendered(session, 12), rendered(document, 8)];
    const at = 4 * PER_BEAT;
    for (let n = 0; n < at; n += 101) same(after[n]!, before[n]!);
    // A pan that leaps takes its ramp.
    for (let n = 1200; n < 4 * PER_BEAT; n += 101) same(after[at + n]!, before[at + 4 * PER_BEAT + n]!);
    expect([document.notes, document.sections]).toEqual([{}, {}]);
    expect(document.session.loopOn).toBe(false);
    expect(height(document, 'pan', 4.01)).toBeCloseTo(height(session, 'pan', 8.01)!, 6);
    expect(applyStep(document, step.inverse)).toEqual(session);
    const part = does(session, time('time.delete', 6, 4)).document;
    expect(part.notes.note).toMatchObject({ startBeat: 5, lengthBeats: 1 });
    expect(part.sections.verse).toMatchObject({ startBeat: 4, lengthBeats: 2 });
    expect(part.session).toMatchObject({ loopOn: true, loopStartBeat: 4, loopEndBeat: 6 });
  });

  it('refuses what is no stretch of time', () => {
    expect(() => does(session, time('time.insert', 3, 0))).toThrow('more than 0 beats, not 0 beats at beat 3');
    expect(() => does(session, time('time.delete', 3, -1))).toThrow('more than 0 beats');
    expect(() => does(session, time('time.insert', 3, 1e9))).toThrow('startBeat takes');
  });
});
