import { act, fireEvent, render, screen } from '@testing-library/react';
import { HelpTip } from './HelpTip';

describe('help', () => {
  beforeEach(() => jest.useFakeTimers());
  afterEach(() => jest.useRealTimers());
  const wait = (ms: number) => act(() => jest.advanceTimersByTime(ms));

  it('comes when the pointer or the focus stays a moment, and goes when something is pressed', () => {
    render(
      <>
        <div data-help="How much of it.">
          <button>Mix</button>
        </div>
        <button>Else</button>
        <HelpTip />
      </>,
    );
    const mix = screen.getByRole('button', { name: 'Mix' });
    fireEvent.pointerOver(mix);
    wait(300);
    expect(screen.queryByRole('tooltip', { hidden: true })).toBeNull();
    wait(600);
    expect(screen.getByRole('tooltip', { hidden: true }).textContent).toBe('How much of it.');
    fireEvent.pointerDown(mix);
    wait(2000);
    expect(screen.queryByRole('tooltip', { hidden: true })).toBeNull();
    fireEvent.pointerOver(screen.getByRole('button', { name: 'Else' }));
    fireEvent.focusIn(mix);
    expect(mix.getAttribute('aria-description')).toBe('How much of it.');
    wait(900);
    expect(screen.getByRole('tooltip', { hidden: true })).toBeTruthy();
    fireEvent.keyDown(mix, { key: 'Escape' });
    wait(2000);
    expect(screen.queryByRole('tooltip', { hidden: true })).toBeNull();
  });
});
