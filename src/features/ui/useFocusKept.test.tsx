import { useState } from 'react';
import { act, fireEvent, render, screen } from '@testing-library/react';
import { useFocusKept } from './useFocusKept';

function List() {
  useFocusKept();
  const [names, setNames] = useState(['organ', 'harp', 'bell']);
  const [hasHead, setHasHead] = useState(true);
  const [isEmpty, setIsEmpty] = useState(false);
  return (
    <main>
      <button onClick={() => setHasHead(false)}>Fold</button>
      {hasHead && (
        <section>
          {names.map((name) => (
            <p key={name}>
              <button>{name}</button>
              <button onClick={() => setNames(names.filter((one) => one !== name))}>Remove {name}</button>
            </p>
          ))}
          <button disabled={isEmpty} onClick={() => setIsEmpty(true)}>
            Empty
          </button>
          <button onClick={() => setHasHead(false)}>Close</button>
        </section>
      )}
    </main>
  );
}

beforeEach(() => jest.useFakeTimers());
afterEach(() => jest.useRealTimers());

const focused = () => document.activeElement?.textContent;
function press(name: string) {
  const button = screen.getByRole('button', { name });
  act(() => button.focus());
  fireEvent.click(button);
  act(() => jest.advanceTimersByTime(100));
}

describe('the focus', () => {
  it('goes to the next control when its own goes, and to the one before at the end', () => {
    render(<List />);
    press('Remove harp');
    expect(focused()).toBe('bell');
    press('Remove bell');
    expect(focused()).toBe('Empty');
    press('Remove organ');
    expect(focused()).toBe('Empty');
  });

  it('leaves a control that can no longer be used', () => {
    render(<List />);
    press('Empty');
    expect(focused()).toBe('Close');
  });

  it('goes to a part around one that has gone whole', () => {
    render(<List />);
    press('Close');
    expect(focused()).toBe('Fold');
  });

  it('is not taken to anything once it has been put down', () => {
    render(<List />);
    press('organ');
    act(() => screen.getByRole('button', { name: 'organ' }).blur());
    fireEvent.click(screen.getByRole('button', { name: 'Remove organ' }));
    act(() => jest.advanceTimersByTime(100));
    expect(document.activeElement).toBe(document.body);
  });

  it('stays where something else has put it, and where it is', () => {
    render(<List />);
    const remove = screen.getByRole('button', { name: 'Remove harp' });
    act(() => remove.focus());
    fireEvent.click(remove);
    act(() => screen.getByRole('button', { name: 'organ' }).focus());
    act(() => jest.advanceTimersByTime(100));
    expect(focused()).toBe('organ');
    press('organ');
    expect(focused()).toBe('organ');
  });
});
