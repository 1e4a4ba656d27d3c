import { render } from '@testing-library/react';
import { nextFrame } from '../../../test/support/studio';
import { useFrame } from './useFrame';

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
});
