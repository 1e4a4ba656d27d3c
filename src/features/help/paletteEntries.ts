import { VIEWS } from '../session/views';
import { EFFECTS, effectById } from '@/core/effects/registry';
import { LISTENING_PLACES } from '@/core/listening/catalogue';
import { RECIPES } from '@/core/session/recipes/recipes';
import { channels, stripOf } from '@/core/session/records/queries';
import { addEffect } from '../session/effectWork';
import { SHORTCUTS } from '../session/shortcuts';
import { addReturn, addTrack } from '../session/stripWork';
import { addSection, deleteLoopTime, insertBarAtPlayhead, insertLoopTime } from '../session/timeWork';
import type { Studio } from '../session/studio';
import { startTour } from '../session/tour';
import { isFound } from '../ui/isFound';
import { setTheme, THEMES } from '../ui/theme';

/** Something that can be done or gone to, found by its words. */
export interface PaletteEntry {
  readonly kind: 'command' | 'place' | 'effect' | 'recipe';
  readonly name: string;
  /** Description, or place. */
  readonly about: string;
  /** Other words that find it. */
  readonly synonyms?: string | undefined;
  readonly run: () => void;
}

const LOOKS = { system: 'as the system', paper: 'paper', night: 'night' } as const;

/** Everything that can be found in a session as it is now. */
export function paletteEntries(studio: Studio): PaletteEntry[] {
  const { document, stripId, history } = studio.state;
  const strip = stripOf(document, stripId)!;
  const command = (name: string, about: string, run: () => void): PaletteEntry => ({
    kind: 'command',
    name,
    about,
    run,
  });
  const go = (name: string, about: string, run: () => void): PaletteEntry => ({ kind: 'place', name, about, run });
  const strips = [...channels(document), document.main];
  return [
    command('Play or stop', SHORTCUTS.play.shown, () => studio.transport.toggle()),
    command('To the start', SHORTCUTS.start.shown, () => studio.transport.seekBeat(0)),
    ...(history.past.length > 0 ? [command('Undo', history.past.at(-1)!.label, () => studio.editor.undo())] : []),
    ...(history.future.length > 0 ? [command('Redo', history.future.at(-1)!.label, () => studio.editor.redo())] : []),
    command('Bounce', 'write the mix to a file', () => studio.set({ bouncing: true })),
    command('Add a track', 'for a sound of its own', () => addTrack(studio)),
    command('Add a return', 'effects that several tracks share', () => addReturn(studio, 'return')),
    command('Add a group', 'tracks under one fader', () => addReturn(studio, 'group')),
    command('Add a section', "from the playhead's bar on", () => addSection(studio)),
    command('Insert a bar', 'at the playhead, in all tracks', () => insertBarAtPlayhead(studio)),
    ...(document.session.loopOn
      ? [
          command("Insert the loop's time", 'at its start, in all tracks', () => insertLoopTime(studio)),
          command("Delete the loop's time", 'with what lies in it, in all tracks', () => deleteLoopTime(studio)),
        ]
      : []),
    command('Manual', 'how things are done', () => studio.set({ drawer: 'manual' })),
    command('Library', 'sounds and test signals', () => studio.set({ drawer: 'library' })),
    command('Modulators', 'what moves rulers by itself', () => studio.set({ drawer: 'modulators' })),
    command('Recipes', 'routings built in one step', () => studio.set({ drawer: 'recipes' })),
    command('Contrast', 'room for a sound in another', () => studio.set({ drawer: 'contrast' })),
    command('Listening places', 'how it sounds elsewhere', () => studio.set({ drawer: 'listening' })),
    ...LISTENING_PLACES.map(({ id, name, about }, n) =>
      command(`Listen: ${name}`, `${n + 1}: ${about}`, () => void studio.monitor.listenAt(id)),
    ),
    command('Show me around', 'a short tour', () => void startTour(studio)),
    command('All keys', SHORTCUTS.keys.shown, () => studio.set({ help: 'keys' })),
    ...THEMES.map((theme) => command(`Look: ${LOOKS[theme]}`, 'paper by day, night by night', () => setTheme(theme))),
    ...VIEWS.map(({ id, name }) => go(name, 'view', () => studio.set({ view: id }))),
    ...strips.map((one) => go(one.name, 'in the cast', () => studio.selection.selectStrip(one.id))),
    ...strips.flatMap((one) =>
      one.insertIds.map((id) =>
        go(`${effectById(document.inserts[id]!.effect).name} on ${one.name}`, 'effect view', () => {
          studio.selection.selectStrip(one.id);
          studio.selection.selectInsert(id);
          studio.set({ view: 'effect' });
        }),
      ),
    ),
    ...Object.values(document.sections).map(({ name, startBeat }) =>
      go(name, 'section', () => studio.transport.seekBeat(startBeat)),
    ),
    ...EFFECTS.map((spec): PaletteEntry => ({
      kind: 'effect',
      name: `Add ${spec.name}`,
      about: `to ${strip.name}: ${spec.purpose}`,
      synonyms: spec.synonyms,
      run: () => addEffect(studio, stripId, spec),
    })),
    ...EFFECTS.map((spec) =>
      go(`About ${spec.name}`, `help and two examples: ${spec.purpose}`, () =>
        studio.set({ drawer: 'effect', about: spec.id }),
      ),
    ),
    ...RECIPES.map(({ id, name, outcome, synonyms }): PaletteEntry => ({
      kind: 'recipe',
      name,
      about: outcome,
      synonyms,
      run: () => studio.set({ drawer: 'recipes', cooking: id }),
    })),
  ];
}

/** Those that have all words, the nearest first: names that begin with what is searched, then names, then the rest. */
export function search(finds: readonly PaletteEntry[], text: string): PaletteEntry[] {
  const wanted = text.trim().toLowerCase();
  const rank = ({ name, about, synonyms }: PaletteEntry) => {
    if (name.toLowerCase().startsWith(wanted)) return 0;
    if (isFound(wanted, name)) return 1;
    return isFound(wanted, name, about, synonyms) ? 2 : 3;
  };
  return finds
    .map((find) => [rank(find), find] as const)
    .filter(([far]) => far < 3)
    .sort(([a], [b]) => a - b)
    .map(([, find]) => find);
}
