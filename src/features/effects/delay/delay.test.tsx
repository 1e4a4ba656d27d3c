import { fireEvent, screen, within } from '@testing-library/react';
import { renderIn, testStudio, withEffect } from '../../../../test/support/studio';
import { useStudioState } from '../../session/StudioContext';
import { DelayLines } from './DelayLines';
import { DelayRouting } from './DelayRouting';

const three = { 'lines.2.on': true, 'lines.3.on': true, 'lines.2.timeLeft': 125, routing: 'series' };

describe('the lines of a delay', () => {
  it('tell what is in use, and are put to use, muted, soloed and copied', () => {
    const { studio, insert, performed } = testStudio(withEffect('delay', three));
    const opened: number[] = [];
    renderIn(studio, <DelayLines insert={insert()} item={2} onItem={(line) => opened.push(line)} />);
    expect(screen.getByRole('button', { name: 'Line 2, 125 ms' }).getAttribute('aria-pressed')).toBe('true');
    fireEvent.click(screen.getByRole('button', { name: 'Use line 5' }));
    expect(insert().values['lines.5.on']).toBe(true);
    fireEvent.click(screen.getByRole('button', { name: 'Solo line 3' }));
    expect(insert().values['lines.3.solo']).toBe(true);
    fireEvent.click(screen.getByRole('button', { name: 'Copy line 2 onto another' }));
    fireEvent.click(screen.getByRole('button', { name: 'Line 7' }));
    expect(insert().values).toMatchObject({ 'lines.7.on': true, 'lines.7.timeLeft': 125 });
    expect(opened).toEqual([5, 7]);
    expect(performed).toEqual(['Use line 5', 'Solo line 3', 'Copy line 2 onto line 7']);
  });
});

describe('the routing of a delay', () => {
  const show = (values: Record<string, number | string | boolean>) => {
    const made = testStudio(withEffect('delay', values));
    function Shown() {
      return <DelayRouting insert={useStudioState(({ document }) => document.inserts.one!)} />;
    }
    renderIn(made.studio, <Shown />);
    return made;
  };

  it('shows one matrix and one flow for what is arranged', () => {
    show(three);
    const matrix = screen.getByRole('table', { name: 'What goes into which line' });
    expect(within(matrix).getByRole('button', { name: 'Input into line 1: 100 %' })).toBeTruthy();
    expect(within(matrix).getByRole('button', { name: 'Line 2 into line 3: 100 %' })).toBeTruthy();
    expect(within(matrix).getByRole('button', { name: 'Line 1 into itself: 30 %' })).toBeTruthy();
    expect(screen.getByRole('img').getAttribute('aria-label')).toBe(
      'Flow: line 1 is fed by the input, itself; line 2 is fed by line 1, itself; line 3 is fed by line 2, itself',
    );
  });

  it('a change of one place keeps the others as they were arranged', () => {
    const { insert } = show(three);
    fireEvent.doubleClick(screen.getByRole('button', { name: 'Line 3 into line 1: 0 %' }));
    expect(insert().values).toMatchObject({
      routing: 'matrix',
      'routing.3.1': 100,
      'routing.in.1': 100,
      'routing.in.2': 0,
      'routing.1.2': 100,
      'routing.2.3': 100,
    });
    expect(screen.getByRole('img').getAttribute('aria-label')).toContain('line 1 is fed by the input, line 3, itself');
    fireEvent.keyDown(screen.getByRole('button', { name: 'Line 3 into line 1: 100 %' }), { key: 'ArrowDown' });
    expect(insert().values['routing.3.1']).toBe(95);
    fireEvent.click(screen.getByRole('button', { name: 'Pairs' }));
    expect(insert().values.routing).toBe('pairs');
  });

  it('the feedback of a line is its place on the diagonal, whatever the arrangement', () => {
    const { insert } = show(three);
    fireEvent.keyDown(screen.getByRole('button', { name: 'Line 2 into itself: 30 %' }), {
      key: 'ArrowUp',
      shiftKey: true,
    });
    expect(insert().values).toMatchObject({ 'lines.2.feedback': 31, routing: 'series' });
  });
});
