import { fireEvent, render, screen } from '@testing-library/react';
import { useShortcut, type ShortcutId } from './shortcuts';

const IDS: ShortcutId[] = ['play', 'start', 'undo', 'chooseAll', 'remove'];

function Page({ onKey }: { onKey: (id: ShortcutId) => void }) {
  useShortcut('play', () => onKey('play'));
  useShortcut('start', () => onKey('start'));
  useShortcut('undo', () => onKey('undo'));
  useShortcut('chooseAll', () => onKey('chooseAll'));
  useShortcut('remove', () => onKey('remove'));
  return (
    <>
      <input aria-label="text" />
      <select aria-label="list" />
      <input type="checkbox" aria-label="switch" />
      <button type="button">elsewhere</button>
      <div className="timeline">
        <button type="button">clip</button>
        <button type="button" onKeyDown={(event) => event.preventDefault()}>
          lane
        </button>
      </div>
    </>
  );
}

const PRESSED = [
  { code: 'Space', key: ' ' },
  { code: 'Home', key: 'Home' },
  { code: 'KeyZ', key: 'z', ctrlKey: true },
  { code: 'KeyA', key: 'a', ctrlKey: true },
  { code: 'Delete', key: 'Delete' },
];

const PLACES: [name: string, find: () => Element, works: ShortcutId[]][] = [
  ['nowhere', () => document.body, IDS],
  ['in a text field', () => screen.getByLabelText('text'), []],
  ['in a list', () => screen.getByLabelText('list'), ['undo', 'chooseAll']],
  ['on a switch', () => screen.getByLabelText('switch'), ['play', 'start', 'undo', 'chooseAll']],
  ['on a button outside the timeline', () => screen.getByText('elsewhere'), ['play', 'start', 'undo', 'chooseAll']],
  ['in the timeline', () => screen.getByText('clip'), IDS],
  ['on what uses the keys itself', () => screen.getByText('lane'), []],
];

test.each(PLACES)('keys pressed %s', (_, find, works) => {
  const onKey = jest.fn<void, [ShortcutId]>();
  render(<Page onKey={onKey} />);
  for (const key of PRESSED) {
    fireEvent.keyDown(find(), key);
    fireEvent.keyUp(find(), key);
  }
  expect(onKey.mock.calls.flat()).toEqual(works);
});

test('digits on a ruler are its own, and change the listening place elsewhere', () => {
  const heard = jest.fn();
  function Desk() {
    useShortcut('listen', (event) => heard(event.key));
    return <div role="slider" aria-label="mix" aria-valuenow={3} tabIndex={0} />;
  }
  render(<Desk />);
  fireEvent.keyDown(screen.getByLabelText('mix'), { code: 'Digit3', key: '3' });
  expect(heard).not.toHaveBeenCalled();
  fireEvent.keyDown(document.body, { code: 'Digit3', key: '3' });
  expect(heard).toHaveBeenCalledWith('3');
});
