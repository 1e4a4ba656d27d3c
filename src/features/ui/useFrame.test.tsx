import { fireEvent, render } from '@testing-library/react';
import { nextFrame } from '../../../test/support/studio';
import { followMovement, useFrame, wakeFrames } from './useFrame';

function Counter({ count }: { readonly count: () => void }) {
  useFrame(count);
  return null;
}

describe('what runs at display rate', () => {
  it('is called by one request a frame, as it is now, and no more once it is gone', async () => {
    const asked = jest.spyOn(window, 'requestAnimationFrame');
    const [first, second, later] = [jest.fn(), jest.fn(), jest.fn()];
    const view = render(
      <>
        <Counter count={first} />
        <Counter count={second} />
      </>,
    );
    await nextFrame();
    expect(first.mock.calls.length).toBeGreaterThan(0);
    expect(second.mock.calls.length).toBe(first.mock.calls.length);
    // Two requests are the test's own.
    expect(asked.mock.calls.length - 2).toBeLessThanOrEqual(first.mock.calls.length + 1);
    view.rerender(<Counter count={later} />);
    first.mockClear();
    await nextFrame();
    expect([first.mock.calls.length, later.mock.calls.length > 0]).toEqual([0, true]);
    view.unmount();
    await nextFrame();
    later.mockClear();
    await nextFrame();
    expect(later).not.toHaveBeenCalled();
    asked.mockRestore();
  });

  it('goes on where one callback throws, which is reported', async () => {
    const reported = jest.fn();
    window.reportError = reported;
    const other = jest.fn();
    const broken = () => {
      throw new Error('a bad figure');
    };
    const view = render(
      <>
        <Counter count={broken} />
        <Counter count={other} />
      </>,
    );
    await nextFrame();
    expect(other).toHaveBeenCalled();
    expect(reported.mock.calls[0]![0]).toEqual(new Error('a bad figure'));
    view.unmount();
  });

  it('rests while nothing moves, and is at display rate again at a sign of movement', () => {
    jest.useFakeTimers();
    let isMoving = false;
    const end = followMovement(() => isMoving);
    const count = jest.fn();
    const view = render(<Counter count={count} />);
    const callsIn = (ms: number) => {
      count.mockClear();
      jest.advanceTimersByTime(ms);
      return count.mock.calls.length;
    };
    expect(callsIn(500)).toBeGreaterThan(25);
    jest.advanceTimersByTime(1000);
    expect(callsIn(1000)).toBeLessThan(10);
    fireEvent.pointerMove(window);
    expect(callsIn(500)).toBeGreaterThan(25);
    jest.advanceTimersByTime(1000);
    isMoving = true;
    jest.advanceTimersByTime(200);
    expect(callsIn(3000)).toBeGreaterThan(150);
    isMoving = false;
    jest.advanceTimersByTime(1500);
    wakeFrames();
    expect(callsIn(500)).toBeGreaterThan(25);
    view.unmount();
    jest.advanceTimersByTime(2000);
    expect(callsIn(1000)).toBe(0);
    end();
    jest.useRealTimers();
  });

  it('takes one turn a frame, also where a callback is itself a sign of movement', () => {
    jest.useFakeTimers();
    const count = jest.fn(wakeFrames);
    const view = render(<Counter count={count} />);
    // Four frames of 16 ms; loops that each begin another would take fifteen turns.
    jest.advanceTimersByTime(64);
    expect([3, 4, 5]).toContain(count.mock.calls.length);
    view.unmount();
    jest.useRealTimers();
  });
});
