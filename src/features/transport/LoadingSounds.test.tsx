import { act, screen } from '@testing-library/react';
import { renderIn, testStudio } from '../../../test/support/studio';
import { LoadingSounds } from './LoadingSounds';

it('tells which sounds are on their way and how far that is, with what is unrolled of the one under way', () => {
  const { studio } = testStudio([]);
  renderIn(studio, <LoadingSounds />);
  expect(screen.queryByRole('status')).toBeNull();
  const share = () => screen.getByRole('progressbar').getAttribute('aria-valuenow');
  act(() => studio.set({ missingSounds: ['tide.mp3', 'harp.flac'], unrolled: 0 }));
  expect(screen.getByRole('status').textContent).toBe('Loading sounds, 0 of 2tide.mp3, harp.flac. What is here plays.');
  expect(share()).toBe('0');
  act(() => studio.set({ unrolled: 0.5 }));
  expect(share()).toBe('25');
  act(() => studio.set({ missingSounds: ['harp.flac'], unrolled: 0 }));
  expect(share()).toBe('50');
  act(() => studio.set({ missingSounds: [] }));
  expect(screen.queryByRole('status')).toBeNull();
});
