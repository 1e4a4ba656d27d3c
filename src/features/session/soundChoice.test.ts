/** @jest-environment jsdom */
import { testStudio, withEffect } from '../../../test/support/studio';
import type { SoundSetting } from '@/core/effects/settings';
import { effectById } from '@/core/effects/registry';
import { findSetting } from '@/core/effects/spec';
import { bringInSound, chooseSound } from './soundChoice';

const setting = findSetting(effectById('convolution'), 'impulse') as SoundSetting;
const asset = { id: 'd'.repeat(64), name: 'yard.wav', frames: 96000, sampleRateHz: 48000, channels: 2 };

function open() {
  const reported: unknown[] = [];
  const taken = { ...asset };
  const { studio } = testStudio(withEffect('convolution'), {
    imports: { unpacked: async (file: File) => ({ file }), takeIn: async () => taken },
    messages: { report: (error: unknown) => reported.push(error) },
  });
  const values = () => studio.state.document.inserts.one!.values;
  const choose = (id: string) => chooseSound(studio, studio.state.document.inserts.one!, setting, { id, name: id });
  const set = (more: object) => studio.editor.perform({ type: 'insert.set', id: 'one', values: { ...more } }, 'Set');
  return { studio, values, choose, set, taken, reported };
}

describe('the sound that an effect works with', () => {
  it('comes without the edits of another, and with its own when it comes again; the rest stays', () => {
    const { values, choose, set } = open();
    set({ reverse: true, end: 40, mix: 70 });
    choose('nave');
    expect(values()).toMatchObject({ impulse: 'nave', reverse: false, end: 100, mix: 70 });
    set({ fadeIn: 120 });
    choose('rehearsal');
    expect(values()).toMatchObject({ impulse: 'rehearsal', reverse: true, end: 40, fadeIn: 0, mix: 70 });
    choose('nave');
    expect(values()).toMatchObject({ fadeIn: 120, reverse: false });
  });

  it('is brought in from a file, in one step', async () => {
    const { studio, values, set } = open();
    set({ stretch: 150 });
    expect(await bringInSound(studio, 'one', setting, new File([], 'yard.wav'))).toBe(true);
    expect(values()).toMatchObject({ impulse: asset.id, stretch: 100 });
    expect(studio.state.document.assets[asset.id]).toMatchObject({ name: 'yard.wav' });
    expect(studio.state.jobs).toEqual([]);
  });

  it('is refused when it is too long, by name and length', async () => {
    const { studio, values, taken, reported } = open();
    taken.frames = 48000 * 31;
    expect(await bringInSound(studio, 'one', setting, new File([], 'yard.wav'))).toBe(false);
    expect(String(reported[0])).toContain('Impulse takes up to 20 s, and yard.wav has 31.0 s.');
    expect(values().impulse).toBe('rehearsal');
    expect(studio.state.jobs).toEqual([]);
  });
});
