import { act, render } from '@testing-library/react';
import { StudioProvider } from './StudioContext';
import { testStudio } from '../../../test/support/studio';
import { cancelled } from '@/core/errors';
import { useWork, useWorkState } from './useWork';

interface Asked {
  readonly key: string;
  readonly signal: AbortSignal;
  readonly finish: (result: string) => void;
  readonly fail: (error: Error) => void;
}

/** Two components that ask for work by a key; the test ends it. */
function show() {
  const { studio, store } = testStudio([]);
  const asked: Asked[] = [];
  const seen = { own: null as string | null, newest: null as string | null, busy: false };
  const work = (key: string | null) => (signal: AbortSignal) =>
    new Promise<string>((finish, fail) => asked.push({ key: key!, signal, finish, fail }));
  function Own({ of }: { readonly of: string | null }) {
    seen.own = useWork(of, work(of));
    return null;
  }
  function Newest({ of }: { readonly of: string | null }) {
    ({ result: seen.newest, busy: seen.busy } = useWorkState(of, work(of)));
    return null;
  }
  const both = (of: string | null) => (
    <StudioProvider studio={studio}>
      <Own of={of} />
      <Newest of={of} />
    </StudioProvider>
  );
  const turn = () => act(() => new Promise<void>((resolve) => setTimeout(resolve, 1)));
  const view = render(both(null));
  const ask = async (of: string | null) => {
    view.rerender(both(of));
    await turn();
  };
  const end = async (how: (one: Asked) => void) => {
    asked.splice(0).forEach(how);
    await turn();
  };
  return { ask, end, asked, seen, view, store };
}

describe('work for a view', () => {
  it('shows what came of the key, and of an earlier one only where that is wanted', async () => {
    const { ask, end, seen } = show();
    expect(seen).toEqual({ own: null, newest: null, busy: false });
    await ask('a');
    expect(seen).toEqual({ own: null, newest: null, busy: true });
    await end(({ key, finish }) => finish(`of ${key}`));
    expect(seen).toEqual({ own: 'of a', newest: 'of a', busy: false });
    await ask('b');
    expect(seen).toEqual({ own: null, newest: 'of a', busy: true });
  });

  it('that failed shows nothing as its own, is reported, and is at an end', async () => {
    const { ask, end, seen, store } = show();
    await ask('a');
    await end(({ finish }) => finish('of a'));
    await ask('b');
    await end(({ fail }) => fail(new Error('no room')));
    expect(seen).toEqual({ own: null, newest: 'of a', busy: false });
    expect(store.getState().problems.map(({ message }) => message)).toEqual(['no room', 'no room']);
  });

  it('is cancelled when something else is asked for or nobody looks, which is not reported', async () => {
    const { ask, end, asked, seen, view, store } = show();
    await ask('a');
    const [first] = asked;
    await ask('b');
    expect(first!.signal.aborted).toBe(true);
    await end(({ key, finish, fail }) => (key === 'a' ? finish('late') : fail(cancelled())));
    expect([seen.own, seen.newest, store.getState().problems]).toEqual([null, null, []]);
    await ask('c');
    view.unmount();
    expect(asked.every(({ signal }) => signal.aborted)).toBe(true);
  });
});
