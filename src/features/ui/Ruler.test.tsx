import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { effectById } from '@/core/effects/registry';
import { findParameter, type NumberParameter, type ParameterValue } from '@/core/effects/spec';
import { KinetikonError } from '@/core/errors';
import { nextFrame } from '../../../test/support/studio';
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
      onPreview={(v) => void seen.push(v)}
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
  it('stays on notes at Home and End, in the range of the parameter', () => {
    const { slider, seen } = show('lines.1.timeLeft', '1/8d');
    fireEvent.keyDown(slider, { key: 'Home' });
    fireEvent.keyDown(slider, { key: 'End' });
    expect(seen).toEqual(['1/64t', '4bar']);
    cleanup();
    const slow = { tempoBpm: 40, beatsPerBar: 4 };
    const reached: ParameterValue[] = [];
    render(
      <Ruler
        parameter={parameter('lines.1.timeLeft')}
        value="1/4"
        timing={slow}
        signal="wet"
        onPreview={(value) => void reached.push(value)}
        onSettle={() => {}}
      />,
    );
    fireEvent.keyDown(screen.getByRole('slider'), { key: 'End' });
    // Three and four bars would be longer than 12 s.
    expect(reached).toEqual(['2bar']);
    cleanup();
    const free = show('lines.1.timeLeft', 200);
    fireEvent.keyDown(free.slider, { key: 'End' });
    expect(free.seen).toEqual([12000]);
  });

  it('says why a typed value was refused, by the name of the control', () => {
    render(
      <Ruler
        parameter={parameter('lines.1.rightRatio')}
        value={100}
        timing={timing}
        signal="wet"
        onPreview={() => new KinetikonError('parameter.range', 'lines.1.rightRatio takes less.')}
        onSettle={() => {}}
      />,
    );
    type('300');
    expect(screen.getByRole('alert').textContent).toBe('Right ratio takes less.');
    cleanup();
    render(
      <Ruler
        parameter={parameter('lines.1.timeLeft')}
        value="1/4"
        timing={{ tempoBpm: 60, beatsPerBar: 4 }}
        signal="wet"
        onPreview={() => {}}
        onSettle={() => {}}
      />,
    );
    fireEvent.click(screen.getByRole('button', { name: /1\/4/ }));
    fireEvent.change(screen.getByRole('textbox'), { target: { value: '4 bars' } });
    fireEvent.keyDown(screen.getByRole('textbox'), { key: 'Enter' });
    expect(screen.getByRole('alert').textContent).toContain(
      'Left takes 0.1 ms to 12 s; 4 bars at 60 BPM would be 16 s',
    );
  });

  it('shows the set value again once no lane moves it any more', async () => {
    const at = (state: 'on' | 'none', value: number) => (
      <Ruler
        parameter={parameter('mix')}
        value={value}
        timing={timing}
        signal="wet"
        automation={{ state, range: null, now: () => 0.9, press: () => {} }}
        onPreview={() => {}}
        onSettle={() => {}}
      />
    );
    const { rerender, container } = render(at('on', 30));
    const figure = () => container.querySelector('.ruler-value')!.textContent;
    const place = () => container.querySelector('.ruler-hand')!.parentElement!.getAttribute('x');
    await nextFrame();
    expect([figure(), place()]).toEqual(['90 %', '90.00%']);
    // Another strip's control in the same place, with the very value the first was set to.
    rerender(at('none', 30));
    await nextFrame();
    expect([figure(), place()]).toEqual(['30 %', '30.00%']);
  });

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

  const drag = (slider: HTMLElement) => {
    slider.getBoundingClientRect = () => ({ left: 0, width: 200 }) as DOMRect;
    slider.setPointerCapture = () => {};
    fireEvent.pointerDown(slider, { button: 0, clientX: 100 });
    fireEvent.pointerMove(slider, { clientX: 120 });
    fireEvent.pointerMove(slider, { clientX: 150 });
  };

  it('previews every position of a drag and settles once, when it is let go', () => {
    const { seen, settled, slider } = show('mix', 30);
    drag(slider);
    expect([seen, settled.mock.calls.length]).toEqual([[50, 60, 75], 0]);
    fireEvent.pointerUp(slider, { clientX: 150 });
    fireEvent.pointerMove(slider, { clientX: 10 });
    expect([seen.length, settled.mock.calls.length]).toEqual([3, 1]);
  });

  it.each([
    ['Escape', () => fireEvent.keyDown(window, { key: 'Escape' })],
    ['a pointer that is taken away', () => fireEvent.pointerCancel(window)],
  ])('goes back to where a drag began by %s', (_, takeBack) => {
    const { seen, settled, slider } = show('mix', 30);
    drag(slider);
    takeBack();
    fireEvent.pointerMove(slider, { clientX: 10 });
    fireEvent.pointerUp(slider, { clientX: 10 });
    expect([seen, settled.mock.calls.length]).toEqual([[50, 60, 75, 30], 1]);
  });

  it('that is pressed on its hand and let go there has not moved', () => {
    const { seen, settled, slider } = show('mix', 50);
    slider.getBoundingClientRect = () => ({ left: 0, width: 200 }) as DOMRect;
    slider.setPointerCapture = () => {};
    fireEvent.pointerDown(slider, { button: 0, clientX: 104 });
    fireEvent.pointerUp(slider, { clientX: 104 });
    expect([seen, settled.mock.calls.length]).toEqual([[], 0]);
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
