import { act, fireEvent, render, screen } from '@testing-library/react';
import { useState } from 'react';
import { lazyPart } from './lazyPart';

beforeAll(() => jest.spyOn(console, 'error').mockImplementation(() => {}));

describe('a part that is fetched when it is shown', () => {
  it('says that it could not be fetched, and is fetched again when asked', async () => {
    const load = jest.fn().mockRejectedValueOnce(new Error('away'));
    load.mockResolvedValue(() => <p>the stage itself</p>);
    const Part = lazyPart('The stage', load);
    const closed = jest.fn();
    await act(async () => void render(<Part onClose={closed} />));
    expect(screen.getByRole('alert').textContent).toContain(
      'The stage could not be shown. The server does not answer.',
    );
    fireEvent.click(screen.getByRole('button', { name: 'Close' }));
    expect(closed).toHaveBeenCalled();
    await act(async () => void fireEvent.click(screen.getByRole('button', { name: 'Try again' })));
    expect(screen.getByText('the stage itself')).toBeTruthy();
  });

  it('keeps a fault of its own to itself, and can be shown again', async () => {
    let broken = true;
    const Fragile = () => {
      if (broken) throw new Error('a bad figure');
      return <p>mended</p>;
    };
    const Part = lazyPart('The routing', async () => Fragile);
    const Page = () => {
      const [count, setCount] = useState(0);
      return (
        <>
          <button onClick={() => setCount(count + 1)}>pressed {count}</button>
          <Part />
        </>
      );
    };
    await act(async () => void render(<Page />));
    expect(screen.getByRole('alert').textContent).toContain('The routing could not be shown. a bad figure');
    fireEvent.click(screen.getByRole('button', { name: 'pressed 0' }));
    expect(screen.getByRole('button', { name: 'pressed 1' })).toBeTruthy();
    broken = false;
    fireEvent.click(screen.getByRole('button', { name: 'Try again' }));
    expect(screen.getByText('mended')).toBeTruthy();
  });
});
