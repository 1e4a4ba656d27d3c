import { LISTENING_PLACES } from '@/core/listening/catalogue';
import { useHotkeys } from 'react-hotkeys-hook';

interface Shortcut {
  /** As the keyboard produces them, modifiers joined by `~`. */
  readonly keys: readonly string[];
  /** By the key's place instead of what it produces. */
  readonly byPlace?: boolean;
  readonly shown: string;
  readonly what: string;
  /** Only while the focus is in the timeline or nowhere. */
  readonly inTimeline?: boolean;
  /** Not while a control has the focus that figures can be typed for. */
  readonly beside?: boolean;
}

/** All keys that work wherever the focus is; text fields alone keep theirs, and lists those without Ctrl. */
export const SHORTCUTS = {
  play: { keys: ['space'], byPlace: true, shown: 'Space', what: 'play, stop' },
  start: { keys: ['home'], shown: 'Home', what: 'to the start' },
  loop: { keys: ['o'], shown: 'o', what: 'loop on, off' },
  undo: { keys: ['mod~z'], shown: 'Ctrl+Z', what: 'undo' },
  redo: { keys: ['mod~shift~z', 'mod~y'], shown: 'Ctrl+Shift+Z', what: 'redo' },
  chooseAll: { keys: ['mod~a'], shown: 'Ctrl+A', what: 'choose all clips' },
  find: { keys: ['mod~k'], shown: 'Ctrl+K', what: 'find a command, a place or an effect' },
  keys: { keys: ['?', 'shift~?'], shown: '?', what: 'show all keys' },
  listen: {
    keys: LISTENING_PLACES.map((_, n) => String(n + 1)),
    shown: `1 to ${LISTENING_PLACES.length}`,
    what: 'listening places, the plain one first',
    beside: true,
  },
  split: { keys: ['/', 'shift~/'], shown: '/', what: 'split the chosen clips at the playhead', inTimeline: true },
  duplicate: { keys: ['mod~d'], shown: 'Ctrl+D', what: 'duplicate the chosen clips', inTimeline: true },
  copy: { keys: ['mod~c'], shown: 'Ctrl+C', what: 'copy the chosen clips', inTimeline: true },
  cut: { keys: ['mod~x'], shown: 'Ctrl+X', what: 'cut the chosen clips', inTimeline: true },
  paste: { keys: ['mod~v'], shown: 'Ctrl+V', what: 'put copied clips in at the playhead', inTimeline: true },
  remove: { keys: ['delete', 'backspace'], shown: 'Delete', what: 'delete the chosen clips', inTimeline: true },
  chooseNone: { keys: ['escape'], shown: 'Escape', what: 'choose no clip', inTimeline: true },
  zoomIn: { keys: ['+', 'shift~+'], shown: '+', what: 'zoom the timeline in', inTimeline: true },
  zoomOut: { keys: ['-'], shown: '-', what: 'zoom the timeline out', inTimeline: true },
} as const satisfies Record<string, Shortcut>;

/** Keys that belong to what has the focus; those who take them say so themselves. */
export const KEYS_IN_PLACE = [
  {
    where: 'On a ruler',
    shown: 'arrows',
    what: 'move it by one step; Page up and down by ten, Home and End to its ends',
  },
  { where: 'On a ruler', shown: 'a figure', what: 'type its value; Enter takes it, Escape leaves it' },
  { where: 'On a clip', shown: 'Enter', what: 'choose it; with Shift beside others' },
  { where: 'On a clip', shown: 'arrows', what: 'move the chosen clips along the grid, and from track to track' },
  {
    where: 'On a clip',
    shown: 'Alt and arrows',
    what: 'move the chosen clips by 1 ms; with Shift move the sound within them',
  },
  { where: 'On a clip', shown: 'drag with Ctrl', what: 'move the sound within it' },
  { where: 'On a clip', shown: 'the menu key', what: 'show all that can be done with it' },
  { where: 'On a landing', shown: 'arrows', what: 'move it by 1 ms' },
  { where: 'On a lane', shown: '[ ]', what: 'choose the point before, the point after' },
  { where: 'On a lane', shown: 'arrows', what: 'move the chosen points' },
  { where: 'On a lane', shown: 'Enter', what: 'set a point at the playhead' },
  { where: 'On a lane', shown: 'Ctrl+C, X, V', what: 'copy, cut, and put points in at the playhead' },
  { where: 'On a chart', shown: 'arrows', what: 'move a point; Delete takes it away' },
  {
    where: 'On the stage',
    shown: 'arrows',
    what: 'turn a thing by 5 degrees, move it farther and nearer; Shift finer',
  },
  { where: 'On the stage', shown: 'Page up, down', what: 'lift a thing, lower it; Delete takes it off the stage' },
  { where: 'On the stage', shown: 'Ctrl+Enter', what: 'choose a thing beside others' },
  { where: 'On a note', shown: '[ ]', what: 'choose the note before, the note after' },
  {
    where: 'On a note',
    shown: 'arrows',
    what: 'move the chosen notes along the grid and by steps of the key; Shift by octaves, Alt longer and shorter',
  },
  { where: 'On a note', shown: 'Page up, down', what: 'harder, softer; Delete takes notes away' },
  { where: 'On a note', shown: 'Ctrl+A, C, X, V, D', what: 'choose all, copy, cut, put in at the playhead, duplicate' },
  { where: 'With the keyboard open', shown: 'a to p , .', what: 'play keys, an octave lower, an octave higher' },
  { where: 'On a section', shown: 'F2', what: 'rename it; Delete takes it away' },
] as const;

export type ShortcutId = keyof typeof SHORTCUTS;

/** Controls that figures can be typed for. */
const TAKES_FIGURES = '[role=slider], [role=spinbutton], [role=combobox], [role=listbox], [role=option], [role=grid]';

const TEXT_FIELD = 'input:not([type=checkbox], [type=radio], [type=range], [type=button], [type=file]), textarea';

/** True if the focused element uses the key itself; handlers that have used a key call `preventDefault`. */
export function keepsKey(event: KeyboardEvent, shortcut: Shortcut): boolean {
  if (event.defaultPrevented) return true;
  const target = event.target instanceof Element ? event.target : null;
  if (!target) return false;
  if (target.matches(TEXT_FIELD) || (target as HTMLElement).isContentEditable) return true;
  if (target.matches('select') && !event.ctrlKey && !event.metaKey) return true;
  if (shortcut.beside === true && target !== document.body && target.matches(TAKES_FIGURES)) return true;
  return shortcut.inTimeline === true && target !== document.body && target.closest('.timeline') === null;
}

/** Does something at the keys of a shortcut while the component is there. */
export function useShortcut(id: ShortcutId, action: (event: KeyboardEvent) => void): void {
  const shortcut: Shortcut = SHORTCUTS[id];
  useHotkeys(
    [...shortcut.keys],
    (event) => {
      event.preventDefault();
      action(event);
    },
    {
      splitKey: '~',
      useKey: shortcut.byPlace !== true,
      enableOnFormTags: true,
      enableOnContentEditable: true,
      ignoreEventWhen: (event) => keepsKey(event, shortcut),
    },
  );
}
