import { fireEvent, screen, within } from '@testing-library/react';
import { renderIn, testStudio, withEffect } from '../../../test/support/studio';
import { newModulator } from '@/core/session/records/factories';
import { ModulatorsDrawer } from './ModulatorsDrawer';

const flanger = withEffect('flanger');
const target = (parameter: string, depth = 20) => ({
  insertId: 'one',
  parameter,
  depth,
  polarity: 'both' as const,
});

describe('the modulators of a session', () => {
  it('are made, opened, named, switched off and removed', () => {
    const { studio, store, performed } = testStudio(flanger);
    renderIn(studio, <ModulatorsDrawer />);
    expect(screen.getByText(/Nothing is moved yet/)).toBeTruthy();
    fireEvent.click(screen.getByRole('button', { name: 'oscillator' }));
    const card = screen.getByRole('region', { name: 'Oscillator 1' });
    expect(within(card).getByText('oscillator, moves nothing yet')).toBeTruthy();
    expect(within(card).getByRole('slider', { name: 'Oscillator 1 Rate' })).toBeTruthy();
    fireEvent.change(within(card).getByLabelText('Oscillator 1 shape'), { target: { value: 'square' } });
    const name = within(card).getByLabelText('Name of Oscillator 1');
    fireEvent.change(name, { target: { value: 'Slow tide' } });
    fireEvent.blur(name);
    const [modulator] = Object.values(store.getState().document.modulators);
    expect(modulator).toMatchObject({ name: 'Slow tide', shape: 'square', on: true });
    fireEvent.click(screen.getByRole('switch', { name: 'Slow tide on' }));
    expect(Object.values(store.getState().document.modulators)[0]!.on).toBe(false);
    fireEvent.click(screen.getByRole('button', { name: 'Fold Slow tide' }));
    expect(screen.queryByRole('slider')).toBeNull();
    fireEvent.click(screen.getByRole('button', { name: 'Remove Slow tide' }));
    expect(store.getState().document.modulators).toEqual({});
    expect(performed).toEqual([
      'New oscillator',
      'Oscillator 1: shape',
      'Rename a modulator',
      'Slow tide off',
      'Remove Slow tide',
    ]);
  });

  it('tell what they move and how far, which way, and let go of it', () => {
    const modulator = { ...newModulator('m', 'Tide', 'walk'), targets: [target('delay'), target('throughZero', 100)] };
    const { studio, store } = testStudio([...flanger, { type: 'modulator.add', modulator }]);
    studio.set({ modulatorId: 'm' });
    renderIn(studio, <ModulatorsDrawer />);
    const targets = () => store.getState().document.modulators.m!.targets;
    expect(screen.getByText('random walk, moves 2')).toBeTruthy();
    expect(screen.getByRole('slider', { name: 'Tide on Flanger: Delay: Depth' }).getAttribute('aria-valuetext')).toBe(
      '20 %',
    );
    fireEvent.change(screen.getByLabelText('Tide on Flanger: Delay: direction'), { target: { value: 'up' } });
    expect(targets()[0]).toMatchObject({ parameter: 'delay', polarity: 'up' });
    fireEvent.keyDown(screen.getByRole('slider', { name: 'Tide on Flanger: Through zero: Depth' }), {
      key: 'PageDown',
    });
    expect(targets()[1]!.depth).toBe(80);
    fireEvent.click(screen.getByRole('button', { name: 'Take Tide off Flanger: Delay' }));
    expect(targets().map(({ parameter }) => parameter)).toEqual(['throughZero']);
  });

  it('steps of a pattern are set by keys and drawn over, within their range', () => {
    const modulator = { ...newModulator('m', 'Steps', 'pattern'), steps: [0, 0.95, 0, 0] };
    const { studio, store } = testStudio([...flanger, { type: 'modulator.add', modulator }]);
    studio.set({ modulatorId: 'm' });
    renderIn(studio, <ModulatorsDrawer />);
    const steps = () => store.getState().document.modulators.m!.steps;
    const second = screen.getByRole('slider', { name: 'Steps, step 2' });
    for (let press = 0; press < 3; press++) fireEvent.keyDown(second, { key: 'ArrowUp' });
    expect(steps()).toEqual([0, 1, 0, 0]);
    fireEvent.keyDown(screen.getByRole('slider', { name: 'Steps, step 4' }), { key: 'ArrowDown' });
    expect(steps()[3]).toBe(-0.05);
    const field = second.parentElement!;
    field.setPointerCapture = () => {};
    field.getBoundingClientRect = () => ({ left: 0, top: 0, width: 400, height: 100 }) as DOMRect;
    fireEvent.pointerDown(field, { clientX: 250, clientY: 25 });
    fireEvent.pointerMove(field, { clientX: 50, clientY: 100 });
    fireEvent.pointerUp(field);
    fireEvent.pointerMove(field, { clientX: 150, clientY: 100 });
    expect(steps()[0]).toBe(-1);
    expect(steps()[1]).toBe(1);
    fireEvent.change(screen.getByLabelText('Steps: number of steps'), { target: { value: '6' } });
    expect(steps()).toHaveLength(6);
  });

  it('a follower chooses what it listens to', () => {
    const modulator = { ...newModulator('m', 'Ear', 'follower'), followId: null };
    const { studio, store } = testStudio([...flanger, { type: 'modulator.add', modulator }]);
    studio.set({ modulatorId: 'm' });
    renderIn(studio, <ModulatorsDrawer />);
    fireEvent.change(screen.getByLabelText('Ear listens to'), { target: { value: 'voice' } });
    expect(store.getState().document.modulators.m!.followId).toBe('voice');
    expect(screen.queryByRole('slider', { name: 'Ear Rate' })).toBeNull();
    for (const name of ['Sensitivity', 'Attack', 'Release', 'Smoothing'])
      expect(screen.getByRole('slider', { name: `Ear ${name}` })).toBeTruthy();
  });
});
