import { readFileSync } from 'node:fs';
import { sine } from '../../../test/support/render';
import { renderPlan } from '../engine/render';
import { applyCommand, type Command } from './commands';
import { compile } from './compile/compiler';
import { validateDocument } from './document';
import { channels } from './records/queries';
import { newClip, newDocument } from './records/factories';

const demo = validateDocument(JSON.parse(readFileSync('demo/session.json', 'utf8')));
const ASSET = 'c'.repeat(64);

describe('a duplicated strip', () => {
  it('leaves a valid session, for every strip of the demo, with copies of all that it has', () => {
    for (const { id, name } of channels(demo)) {
      const { document } = applyCommand(demo, { type: 'strip.duplicate', id, newId: 'copy' }, 'Duplicate');
      expect(() => validateDocument(structuredClone(document))).not.toThrow();
      const count = (of: typeof demo, strip: string) => {
        const { insertIds } = (of.tracks[strip] ?? of.returns[strip])!;
        const owners = new Set([strip, ...insertIds]);
        return {
          effects: insertIds.map((one) => [of.inserts[one]!.effect, of.inserts[one]!.values]),
          clips: Object.values(of.clips).filter(({ trackId }) => trackId === strip).length,
          lanes: Object.values(of.lanes).filter(({ ownerId }) => owners.has(ownerId)).length,
          notes: Object.values(of.notes).filter(({ ownerId }) => owners.has(ownerId)).length,
          sends: Object.values(of.sends).filter(({ fromId, toId }) => fromId === strip || toId === strip).length,
          moved: Object.values(of.modulators).flatMap(({ targets }) =>
            targets.filter(({ insertId }) => insertIds.includes(insertId)),
          ).length,
        };
      };
      expect(count(document, 'copy')).toEqual(count(demo, id));
      const list = demo.tracks[id] ? document.session.trackIds : document.session.returnIds;
      expect(list.indexOf('copy')).toBe(list.indexOf(id) + 1);
      expect((document.tracks.copy ?? document.returns.copy)!.name).toBe(`${name} 2`);
    }
  });

  it('sounds as the original does, and is taken back by one step', () => {
    const commands: Command[] = [
      { type: 'asset.add', asset: { id: ASSET, name: 'tone.wav', frames: 48000, sampleRateHz: 48000, channels: 1 } },
      { type: 'track.add', id: 'tone', name: 'Tone' },
      { type: 'insert.add', stripId: 'tone', id: 'd', effect: 'delay', index: 0 },
      { type: 'strip.set', id: 'tone', values: { gainDb: -3, pan: 20 } },
      {
        type: 'clip.add',
        clip: newClip({
          ...{ id: 'c', trackId: 'tone', name: 'tone', startBeat: 0.5, lengthSeconds: 0.7 },
          source: { kind: 'sound', assetId: ASSET },
        }),
      },
    ];
    const { document } = applyCommand(newDocument('Twice'), { type: 'all', commands }, '');
    const twice = applyCommand(document, { type: 'strip.duplicate', id: 'tone', newId: 'copy' }, '');
    const tone = sine(330, 48000, 48000, 0.2);
    const samples = new Map([[ASSET, { left: tone, right: tone }]]);
    const heard = (of: typeof document) =>
      renderPlan(compile(of), samples, { fromFrame: 0, toFrame: 96000, tailSeconds: 0 })!.left;
    const [one, both] = [heard(document), heard(twice.document)];
    expect(Math.max(...one)).toBeGreaterThan(0.05);
    both.forEach((x, n) => expect(Math.abs(x - 2 * one[n]!)).toBeLessThan(1e-6));
    expect(twice.step.inverse.length).toBeGreaterThan(0);
  });

  it('of a name that is taken counts on, and one that is not there is refused', () => {
    let document = applyCommand(newDocument('Names'), { type: 'track.add', id: 'a', name: 'Voice' }, '').document;
    for (const newId of ['b', 'c'])
      document = applyCommand(document, { type: 'strip.duplicate', id: 'a', newId }, '').document;
    expect(document.session.trackIds.map((id) => document.tracks[id]!.name)).toEqual(['Voice', 'Voice 3', 'Voice 2']);
    expect(() => applyCommand(document, { type: 'strip.duplicate', id: 'x', newId: 'y' }, '')).toThrow('no track x');
  });
});
