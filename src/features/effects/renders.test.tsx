import { Profiler } from 'react';
import { act } from '@testing-library/react';
import type { Command } from '@/core/session/commands';
import { renderIn, testStudio, withEffect } from '../../../test/support/studio';
import { Chain } from './chain/Chain';
import { EffectView } from './EffectView';

const drawn: string[] = [];
jest.mock('../ui/Ruler', () => {
  const actual = jest.requireActual('../ui/Ruler') as typeof import('../ui/Ruler');
  return {
    ...actual,
    Ruler: (props: Parameters<typeof actual.Ruler>[0]) => {
      drawn.push(props.parameter.id);
      return actual.Ruler(props);
    },
  };
});
let icons = 0;
jest.mock('lucide-react', () =>
  Object.fromEntries(
    Object.keys(jest.requireActual('lucide-react') as object).map((name) => [
      name,
      () => {
        icons++;
        return null;
      },
    ]),
  ),
);
jest.mock('./pictures/useTask', () => ({ useTask: () => null, useTaskState: () => ({ result: null, busy: true }) }));

function open(effect: string, more: readonly Command[] = []) {
  const made = testStudio([...withEffect(effect), ...more]);
  act(() => made.store.setState({ insertId: 'one', stripId: 'voice', view: 'effect' }));
  let commits = 0;
  renderIn(
    made.studio,
    <Profiler id="all" onRender={() => commits++}>
      <EffectView />
      <Chain />
    </Profiler>,
  );
  const all = drawn.length;
  const move = (id: string, value: number) => {
    made.studio.editor.settle();
    drawn.length = 0;
    icons = 0;
    commits = 0;
    made.studio.editor.preview({ type: 'insert.set', id: 'one', values: { [id]: value } }, 'Move');
    return { drawn: [...drawn], icons, commits };
  };
  return { all, move, ...made };
}

describe('a control that is moved', () => {
  beforeEach(() => (drawn.length = 0));

  it('draws its own ruler and no other: the signal path has none while the effect is shown large', () => {
    const { all, move } = open('delay');
    expect(all).toBeGreaterThan(10);
    expect(move('mix', 40).drawn).toEqual(['mix']);
    expect(new Set(move('lines.1.feedback', 50).drawn)).toEqual(new Set(['lines.1.feedback']));
    const { icons: few, commits } = move('mix', 41);
    // The buttons of its ruler for lane and modulator, and the copy button of the lines.
    expect(few).toBeLessThan(6);
    expect(commits).toBe(1);
  });

  it('shows those controls that its value brings in', () => {
    const { move, studio } = open('delay');
    drawn.length = 0;
    studio.editor.perform({ type: 'insert.set', id: 'one', values: { 'lines.1.filterType': 'lowPass' } }, 'Filter');
    expect(drawn).toContain('lines.1.cutoff');
    expect(move('lines.1.cutoff', 700).drawn).toEqual(['lines.1.cutoff']);
  });

  it('leaves the controls of other effects alone', () => {
    const other: Command = { type: 'insert.add', stripId: 'voice', id: 'two', effect: 'compressor', index: 1 };
    const { move } = open('flanger', [other]);
    expect(new Set(move('feedback', 20).drawn)).toEqual(new Set(['feedback']));
  });
});
