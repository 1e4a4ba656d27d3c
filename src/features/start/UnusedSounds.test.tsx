import { act, fireEvent, render, screen } from '@testing-library/react';
import * as api from '@/runtime/client/api';
import { UnusedSounds } from './UnusedSounds';

jest.mock('@/runtime/client/api');
const mocked = jest.mocked(api);
const two = [
  { id: 'a', name: 'tide.wav', bytes: 3 * 1024 * 1024 },
  { id: 'b', name: 'bell.wav', bytes: 1024 * 1024 },
];

const show = async (onProblem = jest.fn()) => {
  const { container } = render(<UnusedSounds onProblem={onProblem} />);
  await act(async () => {});
  return { container, onProblem };
};

describe('unused sounds', () => {
  beforeEach(() => jest.resetAllMocks());

  it('are not spoken of while there are none', async () => {
    mocked.listUnused.mockResolvedValue([]);
    expect((await show()).container.textContent).toBe('');
  });

  it('are told with their size, and removed only when that is confirmed', async () => {
    mocked.listUnused.mockResolvedValue(two);
    mocked.sweepUnused.mockResolvedValue(two);
    const { container } = await show();
    expect(container.textContent).toContain('2 sounds, 4.0 MB');
    expect(container.textContent).toContain('tide.wav, bell.wav');
    fireEvent.click(screen.getByRole('button', { name: 'Remove…' }));
    fireEvent.click(screen.getByRole('button', { name: 'Keep' }));
    expect(mocked.sweepUnused).not.toHaveBeenCalled();
    fireEvent.click(screen.getByRole('button', { name: 'Remove…' }));
    await act(async () => fireEvent.click(screen.getByRole('button', { name: 'Remove them for good' })));
    expect(screen.getByRole('status').textContent).toBe('2 sounds removed.');
  });

  it('say when the server cannot tell', async () => {
    mocked.listUnused.mockRejectedValue(new Error('away'));
    expect((await show()).onProblem).toHaveBeenCalledWith(new Error('away'));
  });
});
