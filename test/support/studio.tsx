import type { ReactNode } from 'react';
import { act, fireEvent, render } from '@testing-library/react';
import { createStore } from 'zustand/vanilla';
import type { ParameterValue } from '@/core/effects/spec';
import type { KinetikonError } from '@/core/errors';
import { newProbeMemory, Probe } from '@/core/engine/probe';
import { applyCommand, type Command } from '@/core/session/commands';
import { EMPTY_HISTORY } from '@/core/session/storedHistory';
import { newDocument } from '@/core/session/records/factories';
import { Bounces } from '@/features/session/bounces';
import { ControlMoves } from '@/features/session/controlMoves';
import { Editor } from '@/features/session/editor';
import { Jobs } from '@/features/session/jobs';
import { Messages } from '@/features/session/messages';
import { Selection } from '@/features/session/selection';
import { StudioProvider } from '@/features/session/StudioContext';
import { initialState, type StudioState } from '@/features/session/state';
import type { Studio } from '@/features/session/studio';

// What the test's browser lacks.
window.matchMedia ??= (media) => ({ matches: false, media, addEventListener() {}, removeEventListener() {} }) as never;
window.IntersectionObserver ??= class {
  observe() {}
  disconnect() {}
} as never;
window.ResizeObserver ??= class {
  constructor(private readonly report: (entries: readonly []) => void) {}
  observe() {
    this.report([]);
  }
  unobserve() {}
  disconnect() {}
} as never;
Element.prototype.setPointerCapture ??= () => {};
window.PointerEvent ??= class extends MouseEvent {
  readonly pointerId = 1;
} as never;

const watch = () => ({ probe: new Probe(newProbeMemory()), end() {} });

/** Gives the browser of the tests ids, one after another: `made-1`, `made-2` ... */
export function countIds(): void {
  let made = 0;
  Object.defineProperty(globalThis, 'crypto', { value: { randomUUID: () => `made-${++made}` }, configurable: true });
}

/** A track "Voice" with one effect on it, whose id is "one". */
export function withEffect(effect: string, values: Record<string, ParameterValue> = {}): Command[] {
  return [
    { type: 'track.add', id: 'voice', name: 'Voice' },
    { type: 'insert.add', stripId: 'voice', id: 'one', effect, index: 0, values },
  ];
}

/** A studio's own editor, which tells what was done, each drag once. */
class ObservedEditor extends Editor {
  readonly performed: string[] = [];

  override perform(command: Command, label: string): boolean {
    this.performed.push(label);
    return super.perform(command, label);
  }

  override preview(...[command, label, recorder]: Parameters<Editor['preview']>): KinetikonError | null {
    if (this.performed.at(-1) !== label) this.performed.push(label);
    return super.preview(command, label, recorder);
  }
}

/**
 * A studio without sound, server and saving: a document that commands change, and what was done.
 * @param more what stands in for parts of it, by name; methods of the studio's own objects are replaced one by one
 */
export function testStudio(commands: readonly Command[], more: { readonly [part: string]: object } = {}) {
  const { document } = applyCommand(newDocument('Test'), { type: 'all', commands: [...commands] }, '');
  const store = createStore<StudioState>(() =>
    initialState({ id: 'test', revision: 1, saveId: null, document, history: EMPTY_HISTORY }),
  );
  const { setState } = store;
  store.setState = (part: Partial<StudioState> | ((state: StudioState) => Partial<StudioState>)) => {
    act(() => setState(part));
  };
  const messages = new Messages(store);
  const editor = new ObservedEditor(store, messages, () => {});
  const engine = { movedValue: () => null, told: () => 0, faults: () => 0, overs: () => 0, playing: false, watch };
  const transport = { heardBeat: 0 };
  const parts = {
    messages,
    editor,
    selection: new Selection(store),
    jobs: new Jobs(store, messages),
    controls: new ControlMoves(store, editor, engine, transport),
    transport,
    engine,
    sounds: {},
    imports: {},
    monitor: {},
  };
  for (const [name, part] of Object.entries(parts)) if (name !== 'engine') Object.assign(part, more[name]);
  const studio = {
    store,
    get state() {
      return store.getState();
    },
    set: (values: Partial<StudioState>) => store.setState(values),
    deliver: () => {},
    ...more,
    ...parts,
    ...(more.engine ? { engine: more.engine } : {}),
  } as unknown as Studio;
  Object.assign(studio, { bounces: new Bounces(studio, null) });
  return {
    studio,
    store,
    performed: editor.performed,
    insert: () => store.getState().document.inserts.one!,
  };
}

/** Renders something in a studio. */
export function renderIn(studio: Studio, children: ReactNode) {
  return render(<StudioProvider studio={studio}>{children}</StudioProvider>);
}

/** Lets what runs at display rate have its turn. */
export async function nextFrame(): Promise<void> {
  await act(() => new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve))));
}

type End = 'up' | 'cancel' | 'escape' | 'hold';
type Place = readonly [x: number, y: number];

/**
 * Drags something by a pointer, in window coordinates.
 * @param end how it ends: let go, taken away, given up by Escape, or still held
 */
export function drag(
  element: Element,
  [from, ...places]: readonly [Place, ...Place[]],
  end: End = 'up',
  keys: { altKey?: boolean; shiftKey?: boolean; ctrlKey?: boolean } = {},
): void {
  const at = ([clientX, clientY]: Place) => ({ button: 0, clientX, clientY, ...keys });
  fireEvent.pointerDown(element, at(from));
  for (const place of places) fireEvent.pointerMove(window, at(place));
  const last = at(places.at(-1) ?? from);
  if (end === 'up') fireEvent.pointerUp(window, last);
  if (end === 'cancel') fireEvent.pointerCancel(window, last);
  if (end === 'escape') fireEvent.keyDown(window, { key: 'Escape' });
}
