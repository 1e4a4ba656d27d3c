import { findEffect } from '@/core/effects/registry';
import { clipsBetween } from '@/core/session/clipCuts';
import { channelOf, stripOf, stripOfInsert } from '@/core/session/records/queries';
import { clipActs, pasteClips } from '../session/clipActs';
import { copyEffect, flipBypass, removeEffect } from '../session/effectWork';
import { freeze, thaw } from '../session/freezing';
import { newId } from '../session/newId';
import { chosenStrips } from '../session/selection';
import { SHORTCUTS } from '../session/shortcuts';
import { flipStrips, removeStrips } from '../session/stripWork';
import type { Studio } from '../session/studio';
import { addSection, insertBarAtPlayhead, loopSection, removeSection } from '../session/timeWork';
import type { Act } from '../ui/ActItems';

/** Things that have a menu: they name themselves in `data-menu`, as "clip ID". */
const MENUS = { clip: clipMenu, strip: stripMenu, effect: effectMenu, section: sectionMenu, row: rowMenu } as const;

interface Menu {
  readonly label: string;
  readonly acts: readonly Act[];
}

/**
 * The menu of what was pressed; what it belongs to is chosen with that.
 * @returns null where there is none, and where the browser's own is wanted
 */
export function menuAt(studio: Studio, target: Element): Menu | null {
  if (target.closest('input, textarea, select, [contenteditable]')) return null;
  const owner = target.closest<HTMLElement>('[data-menu]');
  if (!owner) return null;
  const [kind, id] = owner.dataset.menu!.split(' ') as [keyof typeof MENUS, string];
  return MENUS[kind](studio, id);
}

function clipMenu(studio: Studio, id: string): Menu | null {
  const clip = studio.state.document.clips[id];
  if (!clip) return null;
  if (!studio.state.clipIds.includes(id)) studio.selection.selectClip(id, false);
  const { length } = studio.state.clipIds;
  return { label: length === 1 ? clip.name : `${length} clips`, acts: clipActs(studio) };
}

/** The row of a strip, beside its clips. */
function rowMenu(studio: Studio, id: string): Menu | null {
  const strip = stripOf(studio.state.document, id);
  if (!strip) return null;
  studio.selection.selectStrip(id);
  const { session } = studio.state.document;
  return {
    label: strip.name,
    acts: [
      { name: 'Paste at the playhead', keys: SHORTCUTS.paste.shown, run: () => void pasteClips(studio) },
      { name: 'Choose all clips of this track', run: () => chooseAllOn(studio, id) },
      {
        name: 'Choose the clips in the loop',
        isHidden: !session.loopOn,
        run: () =>
          studio.selection.selectClips(clipsBetween(studio.state.document, session.loopStartBeat, session.loopEndBeat)),
      },
      { name: 'Add a section at the playhead’s bar', isApart: true, run: () => addSection(studio) },
      { name: 'Insert a bar at the playhead', run: () => insertBarAtPlayhead(studio) },
    ],
  };
}

function chooseAllOn(studio: Studio, stripId: string): void {
  const clips = Object.values(studio.state.document.clips).filter(({ trackId }) => trackId === stripId);
  studio.selection.selectClips(clips.map(({ id }) => id));
}

function stripMenu(studio: Studio, id: string): Menu | null {
  const { document } = studio.state;
  const strip = stripOf(document, id);
  if (!strip) return null;
  if (!chosenStrips(studio.state).includes(id)) studio.selection.selectStrip(id);
  const channel = channelOf(document, id);
  const duplicate = () => {
    const copy = newId();
    if (studio.editor.perform({ type: 'strip.duplicate', id, newId: copy }, `Duplicate ${strip.name}`))
      studio.selection.selectStrip(copy);
  };
  const isMain = channel === undefined;
  const isFrozen = (channel?.frozen ?? null) !== null;
  const bypass = !strip.bypass;
  return {
    label: strip.name,
    acts: [
      { name: strip.mute ? 'End mute' : 'Mute', run: () => flipStrips(studio, strip, 'mute') },
      { name: strip.solo ? 'End solo' : 'Solo', isHidden: isMain, run: () => flipStrips(studio, strip, 'solo') },
      {
        name: bypass ? 'Bypass all its effects' : 'Hear its effects',
        isHidden: strip.insertIds.length === 0,
        run: () =>
          studio.editor.perform(
            { type: 'strip.set', id, values: { bypass } },
            `${bypass ? 'Bypass' : 'Hear'} the effects of ${strip.name}`,
          ),
      },
      { name: 'Freeze', isHidden: isMain || isFrozen, run: () => void freeze(studio, id) },
      { name: 'Thaw', isHidden: !isFrozen, run: () => thaw(studio, id) },
      { name: 'Duplicate with everything', isHidden: isMain, isApart: true, run: duplicate },
      { name: 'Remove', isHidden: isMain, isApart: true, run: () => removeStrips(studio, strip) },
    ],
  };
}

function effectMenu(studio: Studio, id: string): Menu | null {
  const { document } = studio.state;
  const insert = document.inserts[id];
  const strip = stripOfInsert(document, id);
  if (!insert || !strip) return null;
  const { name } = findEffect(insert.effect)!;
  studio.selection.selectInsert(id);
  const at = strip.insertIds.indexOf(id);
  const move = (to: number) => () => studio.editor.perform({ type: 'insert.move', id, to }, `Move ${name}`);
  return {
    label: `${name} on ${strip.name}`,
    acts: [
      { name: 'Open it large', run: () => studio.set({ view: 'effect' }) },
      { name: insert.bypass ? 'Hear it again' : 'Bypass', run: () => flipBypass(studio, id) },
      { name: 'About this effect', run: () => studio.set({ drawer: 'effect', about: insert.effect }) },
      { name: 'Copy after this one', isApart: true, run: () => copyEffect(studio, id, strip) },
      { name: 'Move up', isHidden: at <= 0, run: move(at - 1) },
      { name: 'Move down', isHidden: at === strip.insertIds.length - 1, run: move(at + 1) },
      { name: 'Remove', isApart: true, run: () => removeEffect(studio, id) },
    ],
  };
}

function sectionMenu(studio: Studio, id: string): Menu | null {
  const section = studio.state.document.sections[id];
  if (!section) return null;
  return {
    label: section.name,
    acts: [
      { name: 'Go to its beginning', run: () => studio.transport.seekBeat(section.startBeat) },
      { name: 'Loop it', run: () => loopSection(studio, section) },
      { name: 'Remove', keys: 'Delete', isApart: true, run: () => removeSection(studio, section) },
    ],
  };
}
