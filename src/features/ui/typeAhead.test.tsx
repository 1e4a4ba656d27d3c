import { fireEvent } from '@testing-library/react';
import { typeAhead } from './typeAhead';

describe('keys typed before their field is there', () => {
  const shortcut = jest.fn();
  beforeEach(() => {
    jest.useFakeTimers();
    shortcut.mockClear();
    document.addEventListener('keydown', shortcut);
  });
  afterEach(() => {
    document.removeEventListener('keydown', shortcut);
    jest.useRealTimers();
  });
  const type = (...keys: string[]) => keys.forEach((key) => fireEvent.keyDown(document.body, { key }));

  it('are kept for it, and none acts as a shortcut', () => {
    typeAhead.begin();
    type('e', 'c', 'h', 'x', 'Backspace', 'o', 'Enter');
    expect(shortcut).not.toHaveBeenCalled();
    expect(typeAhead.end()).toBe('echo');
    type('o');
    expect(shortcut).toHaveBeenCalledTimes(1);
  });

  it('are let go when it does not come', () => {
    typeAhead.begin();
    jest.advanceTimersByTime(6000);
    type('o');
    expect(shortcut).toHaveBeenCalledTimes(1);
    expect(typeAhead.end()).toBe('');
  });
});
