import { fireEvent, screen } from '@testing-library/react';
import { renderIn, testStudio, withEffect } from '../../../test/support/studio';
import { effectById } from '@/core/effects/registry';
import { DifferenceButton, ExaggerateButton } from './EffectTools';
import { ParameterControl } from './ParameterControl';

describe('the tools of an effect', () => {
  it('exaggerate while held by pointer or key, and leave no trace', () => {
    const { studio, insert } = testStudio(withEffect('flanger', { depth: 20 }));
    renderIn(studio, <ExaggerateButton insertId={insert().id} spec={effectById('flanger')} />);
    const button = screen.getByRole('button', { name: 'Exaggerate' });
    button.setPointerCapture = () => {};
    fireEvent.pointerDown(button, { button: 2 });
    expect(insert().values.depth).toBe(20);
    for (const [hold, let_go] of [
      [() => fireEvent.pointerDown(button, { button: 0 }), () => fireEvent.pointerUp(button)],
      [() => fireEvent.keyDown(button, { key: ' ' }), () => fireEvent.keyUp(button, { key: ' ' })],
      [() => fireEvent.pointerDown(button, { button: 0 }), () => fireEvent.blur(button)],
    ] as const) {
      hold();
      expect(insert().values.depth).toBe(50);
      let_go();
      expect(insert().values.depth).toBe(20);
    }
  });

  it('are not offered where nothing can be overdone', () => {
    const { studio, insert } = testStudio(withEffect('utility'));
    renderIn(studio, <ExaggerateButton insertId={insert().id} spec={effectById('utility')} />);
    expect(screen.queryByRole('button')).toBeNull();
  });

  it('let only the difference be heard, of one effect at a time', () => {
    const asked: (string | null)[] = [];
    const { studio, insert } = testStudio(withEffect('flanger'), {
      monitor: {
        hearDifference: (id: string | null) => {
          asked.push(id);
          studio.set({ differenceId: id });
        },
      },
    });
    renderIn(studio, <DifferenceButton insertId={insert().id} />);
    fireEvent.click(screen.getByRole('button', { name: 'Difference' }));
    expect(screen.getByRole('button', { name: 'Difference' }).getAttribute('aria-pressed')).toBe('true');
    fireEvent.click(screen.getByRole('button', { name: 'Difference' }));
    expect(asked).toEqual(['one', null]);
  });
});

describe('a control of an effect', () => {
  const control = (effect: string, id: string, values = {}) => {
    const made = testStudio(withEffect(effect, values), { engine: { movedValue: () => 2, told: () => 0 } });
    const parameter = effectById(effect).parameters.find((one) => one.id === id)!;
    const element = () => <ParameterControl insertId={made.insert().id} parameter={parameter} />;
    return { ...made, ...renderIn(made.studio, element()) };
  };

  it('is a choice, which a modulator moves through its places, telling where it is', async () => {
    const { insert, store } = control('flanger', 'filterType');
    fireEvent.change(screen.getByLabelText('Filter'), { target: { value: 'lowPass' } });
    expect(insert().values.filterType).toBe('lowPass');
    fireEvent.click(screen.getByRole('button', { name: 'Filter: move it with a modulator' }));
    fireEvent.click(screen.getByRole('button', { name: 'Pattern' }));
    const [modulator] = Object.values(store.getState().document.modulators);
    expect(modulator!.targets).toEqual([{ insertId: 'one', parameter: 'filterType', depth: 100, polarity: 'both' }]);
    await screen.findByText('High-pass', { selector: 'small' });
    fireEvent.click(screen.getByRole('button', { name: 'Filter: moved by Pattern 1' }));
    fireEvent.click(screen.getByRole('button', { name: 'Take Pattern 1 off' }));
    expect(screen.queryByTestId('moved-now')).toBeNull();
  });

  it('is a figure with a switch of its own where it has one', () => {
    const { insert, container } = control('delay', 'hum', { wear: 'tape' });
    expect(screen.getByRole('slider', { name: 'Hum' })).toBeTruthy();
    expect(container.querySelector('.switched-off')).toBeTruthy();
    fireEvent.click(screen.getByRole('switch', { name: 'Hum on' }));
    expect(insert().values.humOn).toBe(true);
  });
});
