import type { ReactNode } from 'react';
import { act, render } from '@testing-library/react';
import { createStore } from 'zustand/vanilla';
import type { ParameterValue } from '@/core/effects/spec';
import { newProbeMemory, Probe } from '@/core/engine/probe';
import { applyCommand, type Command } from '@/core/session/commands';
import { EMPTY_HISTORY } from '@/core/session/history';
import { newDocument } from '@/core/session/records/factories';
import type { SessionDocument } from '@/core/session/records/document';
import { StudioProvider } from '@/features/session/StudioContext';
import { initialState, type StudioState } from '@/features/session/state';
import type { Studio } from '@/features/session/studio';

// What the test's browser lacks.
window.matchMedia ??= (media) => ({ matches: false, media, addEventListener() {}, removeEventListener() {} }) as never;
window.IntersectionObserver ??= class {
  observe() {}
  disconnect() {}
} as never;
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

/** A studio without sound, server and saving: a document that commands change, what was done, and what was asked for. */
export function testStudio(commands: readonly Command[], more: { readonly [key: string]: unknown } = {}) {
  const { document } = applyCommand(newDocument('Test'), { type: 'all', commands: [...commands] }, '');
  const store = createStore<StudioState>(() =>
    initialState({ id: 'test', revision: 1, saveId: null, document, history: EMPTY_HISTORY }),
  );
  const performed: string[] = [];
  let base: SessionDocument | null = null;
  const show = (command: Command, from: SessionDocument, label: string) => {
    const next = applyCommand(from, command, label).document;
    act(() => store.setState({ document: next }));
    return true;
  };
  const studio = {
    store,
    get state() {
      return store.getState();
    },
    set: (values: Partial<StudioState>) => act(() => store.setState(values)),
    perform: (command: Command, label: string) => {
      performed.push(label);
      return show(command, store.getState().document, label);
    },
    preview: (command: Command, label: string) => {
      base ??= store.getState().document;
      if (performed.at(-1) !== label) performed.push(label);
      show(command, base, label);
      return null;
    },
    settle: () => {
      base = null;
    },
    abandon: () => {
      if (base) act(() => store.setState({ document: base! }));
      base = null;
    },
    turnOnce: (id: string, parameter: { id: string }, value: ParameterValue, label: string) =>
      studio.perform({ type: 'insert.set', id, values: { [parameter.id]: value } }, label),
    turn: (id: string, parameter: { id: string }, value: ParameterValue, label: string) =>
      studio.preview({ type: 'insert.set', id, values: { [parameter.id]: value } }, label),
    heardBeat: 0,
    engine: { movedValue: () => null, told: () => 0, faults: () => 0, overs: () => 0, playing: false, watch },
    ...more,
  };
  return {
    studio: studio as unknown as Studio,
    store,
    performed,
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
