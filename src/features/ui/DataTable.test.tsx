import { fireEvent, render, screen, within } from '@testing-library/react';
import { DataTable, type DataShape } from './DataTable';

interface Sound {
  readonly name: string;
  readonly level: number | null;
}
const SHAPE: DataShape<Sound> = {
  idOf: ({ name }) => name,
  columns: [
    { id: 'name', head: 'Name', value: ({ name }) => name },
    {
      id: 'level',
      head: 'Level',
      value: ({ level }) => level ?? undefined,
      cell: ({ level }) => (level === null ? 'silent' : `${level} dB`),
    },
  ],
};
const ROWS: readonly Sound[] = [
  { name: 'tin', level: -9 },
  { name: 'none', level: null },
  { name: 'harp', level: -20 },
];
const shown = () =>
  screen
    .getAllByRole('row')
    .slice(1)
    .map((row) => within(row).getByRole('rowheader').textContent);

describe('a table', () => {
  it('stands as it is given, and is sorted by figures and by words, with nothing last', () => {
    render(<DataTable label="Sounds" shape={SHAPE} rows={ROWS} current="harp" />);
    expect(shown()).toEqual(['tin', 'none', 'harp']);
    expect(screen.getByRole('row', { current: true }).textContent).toBe('harp-20 dB');
    const level = screen.getByRole('columnheader', { name: 'Level' });
    fireEvent.click(within(level).getByRole('button'));
    const first = shown();
    expect(first.at(-1)).toBe('none');
    fireEvent.click(within(level).getByRole('button'));
    expect(shown()).toEqual([first[1], first[0], 'none']);
    expect(['ascending', 'descending']).toContain(level.getAttribute('aria-sort'));
    fireEvent.click(screen.getByRole('button', { name: /Name/ }));
    expect(shown()).toEqual(['harp', 'none', 'tin']);
  });
});

describe('a long table', () => {
  const ROW = 28;
  const many = Array.from({ length: 3000 }, (_, n) => ({ name: `sound ${n}`, level: -n }));
  beforeAll(() => {
    window.ResizeObserver = class {
      observe() {}
      unobserve() {}
      disconnect() {}
    } as never;
    Object.defineProperty(HTMLTableRowElement.prototype, 'offsetHeight', { value: ROW, configurable: true });
  });
  afterAll(() => Reflect.deleteProperty(HTMLTableRowElement.prototype, 'offsetHeight'));

  it('draws the rows in sight, says how many there are, and is as high as all of them', () => {
    render(<DataTable label="Sounds" shape={SHAPE} rows={many} />);
    expect(shown()[0]).toBe('sound 0');
    expect(shown().length).toBeLessThan(100);
    const table = screen.getByRole('table');
    expect(table.getAttribute('aria-rowcount')).toBe('3001');
    const drawn = table.querySelectorAll('tbody tr[data-index]').length;
    const below = table.querySelector<HTMLElement>('tbody tr[aria-hidden]')!.style.height;
    expect(parseFloat(below)).toBeCloseTo((3000 - drawn) * ROW, -1);
  });
});
