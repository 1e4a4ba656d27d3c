import { fireEvent, render, screen } from '@testing-library/react';
import { renderIn, testStudio, withEffect } from '../../../../test/support/studio';
import type { Echogram } from '@/core/analysis/echogram';
import { COMB_PLACES, type Picture } from '@/core/analysis/pictures';
import { EchogramPicture } from './EchogramPicture';
import { CombCourse, delaysOf, NowLine } from './movingCourses';
import { BandStrip, CombPicture } from './MovingPictures';

const timing = { tempoBpm: 120, beatsPerBar: 4 };

/** Arrivals on the left at these milliseconds and levels. */
function echogramOf(...arrivals: [number, number][]): Echogram {
  const left = new Float32Array(1000);
  const leftSeconds = new Float64Array(1000);
  for (const [ms, level] of arrivals) {
    left[ms] = level;
    leftSeconds[ms] = ms / 1000;
  }
  const right = new Float32Array(1000);
  return {
    seconds: 1,
    left,
    right,
    leftSeconds,
    rightSeconds: new Float64Array(1000),
    dryLeft: 1,
    dryRight: 1,
    endless: false,
  };
}

describe('an echogram', () => {
  const show = (more: Partial<Parameters<typeof EchogramPicture>[0]> = {}) => {
    const spans: (number | null)[] = [];
    const units: string[] = [];
    const view = render(
      <EchogramPicture
        echograms={[echogramOf([250, 0.5], [500, 0.25])]}
        names={['all']}
        timing={timing}
        beatQuarters={1}
        span={null}
        onSpan={(span) => spans.push(span)}
        unit="ms"
        onUnit={(unit) => units.push(unit)}
        {...more}
      />,
    );
    return { ...view, spans, units };
  };

  it('waits until the engine has answered', () => {
    show({ echograms: null });
    expect(screen.getByRole('status').textContent).toBe('Listening to the effect…');
  });

  it('says how many arrivals there are, and the first with its time, note value and level', () => {
    show();
    expect(screen.getByRole('img').getAttribute('aria-label')).toBe(
      'Echogram from the engine: 2 arrivals left, 0 right, the first after 250 ms, 1/8, -6.0 dB',
    );
  });

  it('reads what the pointer is near, on its side of the line', () => {
    const { container } = show();
    const svg = screen.getByRole('img');
    svg.getBoundingClientRect = () => ({ left: 0, top: 0, width: 748, height: 184 }) as DOMRect;
    const reading = () => container.querySelector('.echogram-reading')!.textContent;
    expect(reading()).toBe('575 ms shown, down to -60 dB');
    fireEvent.pointerMove(svg, { clientX: 600, clientY: 20 });
    expect(reading()).toBe('left: 500 ms, 1/4, -12.0 dB');
    fireEvent.pointerMove(svg, { clientX: 600, clientY: 180 });
    expect(reading()).toBe('575 ms shown, down to -60 dB');
    fireEvent.pointerLeave(svg);
  });

  it('zooms by wheel and button, and goes back to all; beats or milliseconds', () => {
    const { spans, units } = show({ span: 0.4 });
    fireEvent.wheel(screen.getByRole('img'), { deltaY: -1 });
    fireEvent.click(screen.getByRole('button', { name: 'Show more time' }));
    fireEvent.click(screen.getByRole('button', { name: 'All' }));
    expect(spans[0]).toBeCloseTo(0.25);
    expect(spans[1]).toBeCloseTo(0.64);
    expect(spans[2]).toBeNull();
    fireEvent.click(screen.getByRole('button', { name: 'Show the beat grid' }));
    expect(units).toEqual(['bars']);
  });

  it('tells lines apart, and shows whole bars on the beat grid', () => {
    const { container } = show({
      echograms: [echogramOf([250, 0.5]), echogramOf([600, 0.25])],
      names: ['line 1', 'line 4'],
      unit: 'bars',
    });
    expect([...container.querySelectorAll('.legend')].map(({ textContent }) => textContent)).toEqual([
      'line 1',
      'line 4',
    ]);
    expect(container.querySelectorAll('.bar-of-2')).toHaveLength(1);
    expect(container.querySelector('.echogram-reading')!.textContent).toBe('2.0 s shown, down to -60 dB');
    expect(screen.getByRole('img').getAttribute('aria-label')).toContain('the first after line 1, 250 ms');
  });
});

const linesOf = (...means: number[]): Picture => ({
  kind: 'delays',
  x: Float64Array.of(0, 1, 2),
  lines: [
    ...means.map((mean, n) => ({ name: `${n + 1} left`, y: Float64Array.of(mean - 1, mean + 1, mean) })),
    ...means.map((_, n) => ({ name: `bend of ${n + 1} left`, y: Float64Array.of(-5, 5, 0) })),
  ],
});

describe('pictures of what moves', () => {
  const { studio } = testStudio(withEffect('flanger'));

  it('delays close to each other are drawn as they are, never below nothing', () => {
    const { delays, bends } = delaysOf(linesOf(1, 2));
    expect([delays.y.title, delays.y.min, delays.y.word(0)]).toEqual(['ms', 0, '0']);
    expect(delays.lines.map(({ name, points }) => [name, points[1]])).toEqual([
      ['1 left', { x: 1, y: 2 }],
      ['2 left', { x: 1, y: 3 }],
    ]);
    expect(bends.y.min).toBe(-bends.y.max);
    expect(bends.y.max).toBeGreaterThan(5);
  });

  it('delays far from each other are drawn each against its mean, which its name tells', () => {
    const { delays } = delaysOf(linesOf(3, 1500));
    expect(delays.y.title).toBe('ms from its mean');
    expect(delays.lines.map(({ name }) => name)).toEqual(['1 left, 3.0 ms', '2 left, 1500 ms']);
    for (const { points } of delays.lines) expect(points.map(({ y }) => y)).toEqual([-1, 1, 0]);
  });

  it('a mark goes where the sweep is, over the whole height', () => {
    const { delays } = delaysOf(linesOf(1, 2));
    const mark = new NowLine(delays.y);
    mark.move(0.25);
    expect(mark.lines[0]!.points).toEqual([
      { x: 0.25, y: delays.y.min },
      { x: 0.25, y: delays.y.max },
    ]);
  });

  it('a comb shows the response at the place of the sweep that the audio thread tells', () => {
    const picture: Picture = {
      kind: 'comb',
      x: Float64Array.of(20, 632, 20000),
      lines: Array.from({ length: 2 * COMB_PLACES }, (_, n) => ({ name: '', y: new Float64Array(3).fill(-n / 4) })),
    };
    const course = new CombCourse(picture);
    course.move(0.25);
    const [left, right] = course.now.map(({ points }) => points[1]);
    expect(left).toEqual({ x: 632, y: -(2 * (COMB_PLACES / 4)) / 4 });
    expect(right).toEqual({ x: 632, y: -(2 * (COMB_PLACES / 4) + 1) / 4 });
    expect(course.ghosts.length).toBe(Math.ceil(COMB_PLACES / 6));
    course.move(1);
    expect(course.now[0]!.points[1]!.y).toBeCloseTo(0, 10);
  });

  it('pictures wait for the engine', () => {
    renderIn(studio, <CombPicture picture={null} insertId="one" label="Comb" />);
    expect(screen.getByRole('status')).toBeTruthy();
  });

  it('the band that moves is drawn as the engine divides it', () => {
    render(<BandStrip lowHz={500} highHz={2000} window={1024} sampleRate={48000} />);
    const path = screen.getByRole('img', { name: 'The band that moves' }).querySelector('path')!.getAttribute('d')!;
    const heights = [...path.matchAll(/L([\d.]+) ([\d.]+)/g)].map(([, , y]) => Number(y));
    expect(heights[0]).toBe(30);
    // 1 kHz lies in the middle of three decades, a little above half of the way.
    expect(heights[Math.round(239 * 0.566)]).toBe(4);
    expect(heights.at(-2)).toBe(30);
  });
});
