import { testStudio } from '../../../test/support/studio';
import { newClip } from '@/core/session/records/factories';
import { CLIP_GAIN_PARAMETER, GAIN_PARAMETER, MUTE_PARAMETER } from '@/core/session/stripParameters';
import { chosenStrips } from './selection';
import { flipStrips, removeStrips } from './stripWork';

const SOUND = 'a'.repeat(64);

/** Three tracks, the last one silent, and a return. */
function session() {
  const test = testStudio([
    ...['voice', 'harp', 'bell'].map((id) => ({ type: 'track.add' as const, id, name: id })),
    { type: 'return.add', id: 'room', name: 'room', role: 'return' },
    { type: 'strip.set', id: 'harp', values: { gainDb: -10 } },
    { type: 'strip.set', id: 'bell', values: { gainDb: -100 } },
    { type: 'asset.add', asset: { id: SOUND, name: 'a.wav', frames: 480000, sampleRateHz: 48000, channels: 1 } },
    ...['one', 'two'].map((id, n) => ({
      type: 'clip.add' as const,
      clip: newClip({
        id,
        trackId: 'voice',
        source: { kind: 'sound' as const, assetId: SOUND },
        name: id,
        startBeat: 8 * n,
        lengthSeconds: 2,
      }),
    })),
  ]);
  const { studio, store } = test;
  studio.selection.selectStrip('voice');
  const level = (id: string) => store.getState().document.tracks[id]!.gainDb;
  return { ...test, level, chosen: () => chosenStrips(store.getState()) };
}

describe('strips that are chosen together', () => {
  it('are added and taken out one by one, or all up to one, and another press alone leaves one', () => {
    const { studio, chosen } = session();
    studio.selection.selectStrip('bell', 'beside');
    studio.selection.selectStrip('room', 'beside');
    expect(chosen()).toEqual(['voice', 'bell', 'room']);
    studio.selection.selectStrip('bell', 'beside');
    expect(chosen()).toEqual(['voice', 'room']);
    studio.selection.selectStrip('voice', 'beside');
    expect(chosen()).toEqual(['room']);
    studio.selection.selectStrip('harp', 'upTo');
    expect(chosen()).toEqual(['room', 'harp', 'bell']);
    studio.selection.selectStrip('harp');
    expect(chosen()).toEqual(['harp']);
  });

  it('are set together: levels by as much, within their range, and what is silent stays so, as one step', () => {
    const { studio, level, store, performed } = session();
    for (const id of ['harp', 'bell']) studio.selection.selectStrip(id, 'beside');
    studio.controls.turn('voice', GAIN_PARAMETER, -3, 'voice: Level');
    studio.controls.turn('voice', GAIN_PARAMETER, 4, 'voice: Level');
    studio.editor.settle();
    expect([level('voice'), level('harp'), level('bell')]).toEqual([4, -6, -100]);
    expect(performed.at(-1)).toBe('voice: Level, and of 2 more');
    studio.controls.turnOnce('harp', GAIN_PARAMETER, 12, 'harp: Level');
    expect([level('voice'), level('harp')]).toEqual([12, 12]);
    studio.controls.turnOnce('voice', MUTE_PARAMETER, true, 'voice: Mute');
    expect(Object.values(store.getState().document.tracks).map(({ mute }) => mute)).toEqual([true, true, true]);
    studio.editor.undo();
    studio.editor.undo();
    studio.editor.undo();
    expect([level('voice'), level('harp'), level('bell')]).toEqual([0, -10, -100]);
    studio.selection.selectStrip('voice');
    studio.controls.turnOnce('voice', GAIN_PARAMETER, -3, 'voice: Level');
    expect(level('harp')).toBe(-10);
  });

  it('are muted, soloed and removed together, but never the output', () => {
    const { studio, store, chosen } = session();
    const strips = () => store.getState().document;
    studio.selection.selectStrip('harp', 'beside');
    studio.selection.selectStrip('main', 'beside');
    flipStrips(studio, strips().tracks.harp!, 'solo');
    expect([strips().tracks.voice!.solo, strips().tracks.harp!.solo, strips().main.solo]).toEqual([true, true, false]);
    flipStrips(studio, strips().tracks.bell!, 'mute');
    expect([strips().tracks.voice!.mute, strips().tracks.bell!.mute]).toEqual([false, true]);
    removeStrips(studio, strips().tracks.voice!);
    expect([Object.keys(strips().tracks), chosen()]).toEqual([['bell'], ['bell', 'main']]);
    studio.editor.undo();
    expect(Object.keys(strips().tracks).sort()).toEqual(['bell', 'harp', 'voice']);
  });

  it('have clips that are set together in the same way', () => {
    const { studio, store } = session();
    studio.selection.selectClip('one', false);
    studio.selection.selectClip('two', true);
    studio.controls.turnOnce('one', CLIP_GAIN_PARAMETER, -5, 'one: Clip level');
    expect(Object.values(store.getState().document.clips).map(({ gainDb }) => gainDb)).toEqual([-5, -5]);
  });
});
