import { useState } from 'react';
import { act, fireEvent, render, screen } from '@testing-library/react';
import { usePointerDrag } from './usePointerDrag';
import '../../../test/support/studio';

Element.prototype.setPointerCapture = () => {};

/** A thing that is dragged along and tells what happens; `other` draws it anew in another element. */
function Thing({ told, refuses }: { readonly told: string[]; readonly refuses?: boolean }) {
  const [at, setAt] = useState(0);
  const [begin, state] = usePointerDrag<{ readonly from: number }, [name: string]>({
    begin: (event, name) => {
      told.push(`begin ${name}`);
      return refuses ? null : { from: event.clientX };
    },
    move: ({ from }, { clientX, currentTarget }) => {
      told.push(`move ${clientX - from} ${currentTarget.getAttribute('role')} ${String(state.current !== null)}`);
      setAt(clientX);
    },
    end: ({ from }, { clientX }) => told.push(`end ${clientX - from} ${String(state.current === null)}`),
    cancel: () => told.push('cancel'),
  });
  return (
    <button type="button" role="slider" aria-valuenow={at} onPointerDown={(event) => begin(event, 'thing')}>
      {at}
    </button>
  );
}

function show(refuses = false) {
  const told: string[] = [];
  const view = render(<Thing told={told} refuses={refuses} />);
  const thing = screen.getByRole('slider');
  return { told, view, thing };
}

describe('a drag by a pointer', () => {
  it('follows the pointer from where it was pressed to where it is let go, and no further', () => {
    const { told, thing } = show();
    fireEvent.pointerDown(thing, { button: 0, clientX: 10 });
    fireEvent.pointerMove(window, { clientX: 15 });
    fireEvent.pointerMove(document.body, { clientX: 30 });
    fireEvent.pointerUp(window, { clientX: 32 });
    fireEvent.pointerMove(window, { clientX: 99 });
    fireEvent.pointerUp(window, { clientX: 99 });
    fireEvent.keyDown(window, { key: 'Escape' });
    expect(told).toEqual(['begin thing', 'move 5 slider true', 'move 20 slider true', 'end 22 true']);
  });

  it.each([
    ['Escape', () => fireEvent.keyDown(document.body, { key: 'Escape' })],
    ['a pointer that is taken away', () => fireEvent.pointerCancel(window)],
  ])('is taken back by %s, once', (_, takeBack) => {
    const { told, thing } = show();
    fireEvent.pointerDown(thing, { button: 0, clientX: 10 });
    fireEvent.pointerMove(window, { clientX: 15 });
    takeBack();
    takeBack();
    fireEvent.pointerMove(window, { clientX: 20 });
    fireEvent.pointerUp(window, { clientX: 20 });
    expect(told.slice(2)).toEqual(['cancel']);
  });

  it('keeps Escape from everything else, and leaves other keys alone', () => {
    const { thing } = show();
    const heard: string[] = [];
    const listen = ({ key }: KeyboardEvent) => heard.push(key);
    document.body.addEventListener('keydown', listen);
    fireEvent.pointerDown(thing, { button: 0, clientX: 10 });
    fireEvent.keyDown(document.body, { key: 'a' });
    fireEvent.keyDown(document.body, { key: 'Escape' });
    fireEvent.keyDown(document.body, { key: 'Escape' });
    document.body.removeEventListener('keydown', listen);
    expect(heard).toEqual(['a', 'Escape']);
  });

  it('does not begin by another button, where it is refused, or while another finger drags', () => {
    const { told, thing } = show();
    fireEvent.pointerDown(thing, { button: 2, clientX: 10 });
    expect(told).toEqual([]);
    fireEvent.pointerDown(thing, { button: 0, clientX: 10 });
    fireEvent.pointerDown(thing, { button: 0, clientX: 50 });
    fireEvent.pointerUp(window, { clientX: 12 });
    expect(told).toEqual(['begin thing', 'end 2 true']);
  });

  it('goes nowhere when it is refused', () => {
    const { told, thing } = show(true);
    fireEvent.pointerDown(thing, { button: 0, clientX: 10 });
    fireEvent.pointerMove(window, { clientX: 20 });
    fireEvent.pointerUp(window, { clientX: 20 });
    expect(told).toEqual(['begin thing']);
  });

  it('is settled although its element is gone by then', () => {
    const { told, thing, view } = show();
    fireEvent.pointerDown(thing, { button: 0, clientX: 10 });
    act(() => view.unmount());
    fireEvent.pointerUp(window, { clientX: 40 });
    expect(told).toEqual(['begin thing', 'end 30 true']);
  });
});
