import { fireEvent, render, screen } from '@testing-library/react';
import { effectById } from '@/core/effects/registry';
import { findParameter, type NumberParameter, type ParameterValue } from '@/core/effects/spec';
import { Ruler } from './Ruler';

const timing = { tempoBpm: 84, beatsPerBar: 3 };
const parameter = (id: string) => findParameter(effectById('delay'), id) as NumberParameter;

function show(id: string, value: ParameterValue) {
  const seen: ParameterValue[] = [];
  const settled = jest.fn();
  render(
    <Ruler
      parameter={parameter(id)}
      value={value}
      timing={timing}
      signal="wet"
      onPreview={(v) => seen.push(v)}
      onSettle={settled}
    />,
  );
  return { seen, settled, slider: screen.getByRole('slider') };
}

function type(text: string) {
  fireEvent.click(screen.getByRole('button', { name: /ms|%|Hz|dB|dotted|centre/ }));
  const input = screen.getByRole('textbox');
  fireEvent.change(input, { target: { value: text } });
  fireEvent.keyDown(input, { key: 'Enter' });
}

describe('ruler', () => {
  it('is a slider with a name, a value in words and a range', () => {
    const { slider } = show('lines.1.timeLeft', '1/8d');
    expect(slider.getAttribute('aria-label')).toBe('Left');
    expect(slider.getAttribute('aria-valuetext')).toBe('1/8 dotted, 536 ms');
    expect(Number(slider.getAttribute('aria-valuenow'))).toBeCloseTo(535.7, 1);
  });

  it('moves by keys, finer with Shift', () => {
    const mix = show('mix', 30);
    fireEvent.keyDown(mix.slider, { key: 'ArrowRight' });
    fireEvent.keyDown(mix.slider, { key: 'ArrowLeft', shiftKey: true });
    fireEvent.keyDown(mix.slider, { key: 'End' });
    expect(mix.seen).toEqual([31, 29.9, 100]);
  });

  it('moves from note to note', () => {
    const time = show('lines.1.timeLeft', '1/8d');
    fireEvent.keyDown(time.slider, { key: 'ArrowRight' });
    fireEvent.keyDown(time.slider, { key: 'ArrowLeft' });
    expect(time.seen).toEqual(['1/4', '1/4t']);
  });

  it('goes to its default on a double click, as one movement', () => {
    const { slider, seen, settled } = show('mix', 80);
    fireEvent.doubleClick(slider);
    expect(seen).toEqual([30]);
    expect(settled).toHaveBeenCalledTimes(1);
  });

  it('takes typed values, and says what it refuses', () => {
    const { seen, settled } = show('lines.1.timeLeft', 250);
    type('0.4s');
    expect(seen).toEqual([400]);
    expect(settled).toHaveBeenCalledTimes(1);
    type('20s');
    expect(screen.getByRole('alert').textContent).toContain('Left takes 0.1 ms to 12 s');
    expect(seen).toHaveLength(1);
  });

  it('changes between free and note values', () => {
    const { seen } = show('lines.1.timeLeft', 540);
    fireEvent.click(screen.getByRole('button', { name: 'Left: use note values' }));
    expect(seen).toEqual(['1/8d']);
  });
});
