import { testStudio } from '../../../test/support/studio';
import { RECIPES } from '@/core/session/recipes/recipes';
import { EFFECTS } from '@/core/effects/registry';
import { paletteEntries, search, type PaletteEntry } from './paletteEntries';

const find = (name: string, about = ''): PaletteEntry => ({ kind: 'command', name, about, run: () => {} });

describe('the search of commands', () => {
  it('puts names that begin with it first, then names that have it, then what has it elsewhere', () => {
    const all = [find('Swell', 'a reverb backwards'), find('Add Reverb'), find('Reverb on Voice'), find('Bounce')];
    expect(search(all, 'reverb').map(({ name }) => name)).toEqual(['Reverb on Voice', 'Add Reverb', 'Swell']);
    expect(search(all, 'add reverb').map(({ name }) => name)).toEqual(['Add Reverb']);
    expect(search(all, 'nothing like it')).toEqual([]);
    expect(search(all, '')).toHaveLength(4);
  });

  it('has every effect, recipe, view and strip, and each does what it says', () => {
    const chosen: string[] = [];
    const { studio } = testStudio([], { selection: { selectStrip: (id: string) => chosen.push(id) } });
    const { document } = studio.state;
    const finds = paletteEntries(studio);
    const named = (name: string) => finds.find((one) => one.name === name)!;
    for (const { name } of EFFECTS) expect(named(`Add ${name}`).kind).toBe('effect');
    for (const { name } of RECIPES) expect(named(name).kind).toBe('recipe');
    named('Compare').run();
    expect(studio.state.view).toBe('compare');
    named('All keys').run();
    expect(studio.state.help).toBe('keys');
    const before = document.session.trackIds.length;
    named('Add a track').run();
    expect(studio.state.document.session.trackIds).toHaveLength(before + 1);
    expect(chosen).toEqual([studio.state.document.session.trackIds.at(-1)]);
    named(RECIPES[2]!.name).run();
    expect([studio.state.drawer, studio.state.cooking]).toEqual(['recipes', RECIPES[2]!.id]);
  });
});
