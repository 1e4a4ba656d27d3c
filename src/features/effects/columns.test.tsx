import { effectById } from '@/core/effects/registry';
import { columnsOf, groupsOf } from './columns';
import { delayView } from './delay/view';

const names = (columns: ReturnType<typeof columnsOf>) => columns.map(({ groups }) => groups.map(([name]) => name));

describe('the controls of an effect', () => {
  const delay = effectById('delay');
  const lines = delay.lists[0]!;

  it('stand in groups, of a list those of one item, without what stands elsewhere', () => {
    const groups = groupsOf(delay, lines, 2, delayView.shows);
    expect(groups.map(([name]) => name)).toEqual([
      ...['Time 2', 'Filter 2', 'Sway 2', 'Drive 2', 'Output 2'],
      ...['Flow', 'Wear', 'Duck', 'Output'],
    ]);
    const ids = groups.flatMap(([, parameters]) => parameters.map(({ id }) => id));
    for (const id of ['lines.2.rightRatio', 'lines.2.feedback', 'mix']) expect(ids).toContain(id);
    for (const elsewhere of ['lines.1.cutoff', 'lines.2.mute', 'routing', 'routing.1.2', 'wowOn'])
      expect(ids).not.toContain(elsewhere);
  });

  it('share a column where there are more groups than columns, the smallest neighbours first', () => {
    const groups = groupsOf(delay, lines, 2);
    // Large groups take three columns, the others one.
    const whole = columnsOf(groups.slice(-3), null);
    expect(names(whole)).toEqual([['Wear'], ['Duck', 'Output']]);
    expect(whole.map(({ wide }) => wide)).toEqual([true, false]);
    const chorus = effectById('chorus');
    expect(names(columnsOf(groupsOf(chorus, undefined, 1), null))).toEqual([
      ['Copies'],
      ['Motion'],
      ['Band'],
      ['Wear', 'Output'],
    ]);
    const flanger = effectById('flanger');
    expect(columnsOf(groupsOf(flanger, undefined, 1), null)).toHaveLength(4);
  });

  it('stand around one that is wide: a large one beside it, the rest under it', () => {
    const columns = columnsOf(groupsOf(delay, lines, 2, delayView.shows).slice(0, 5), null);
    expect(columns.map(({ groups: [first], tall, wide }) => [first![0], tall, wide])).toEqual([
      ['Filter 2', true, false],
      ['Time 2', false, true],
      ['Sway 2', false, false],
      ['Drive 2', false, false],
      ['Output 2', false, false],
    ]);
  });

  it('of one item of a list are wide when asked to', () => {
    const eq = effectById('eq');
    const [bands] = columnsOf(groupsOf(eq, eq.lists[0], 3), ' 3');
    expect([bands!.wide, bands!.groups[0]![0]]).toEqual([true, 'Band 3']);
  });
});
