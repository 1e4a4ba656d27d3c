import { effectById } from '@/core/effects/registry';
import { columnsOf, groupsOf } from './columns';
import { delayView } from './delay/view';
import { reverbView } from './reverb/view';

const names = (columns: ReturnType<typeof columnsOf>) => columns.map(({ groups }) => groups.map(([name]) => name));

describe('the controls of an effect', () => {
  const delay = effectById('delay');
  const lines = delay.lists[0]!;
  const main = ['lines.2.timeLeft', 'lines.2.feedback', 'mix'];

  it('stand in groups, of a list those of one item, without what stands elsewhere', () => {
    const groups = groupsOf(delay, lines, 2, main, delayView.shows);
    expect(groups.map(([name]) => name)).toEqual([
      ...['Time 2', 'Filter 2', 'Sway 2', 'Drive 2', 'Output 2'],
      ...['Flow', 'Wear', 'Duck', 'Output'],
    ]);
    const ids = groups.flatMap(([, parameters]) => parameters.map(({ id }) => id));
    expect(ids).toContain('lines.2.rightRatio');
    for (const elsewhere of [...main, 'lines.1.cutoff', 'lines.2.mute', 'routing', 'routing.1.2', 'wowOn'])
      expect(ids).not.toContain(elsewhere);
  });

  it('share a column where there are more groups than columns, the smallest neighbours first', () => {
    const groups = groupsOf(delay, lines, 2, main);
    expect(names(columnsOf(groups.slice(0, 5), null))).toEqual([
      ['Time 2'],
      ['Filter 2'],
      ['Sway 2'],
      ['Drive 2', 'Output 2'],
    ]);
    // Large groups take three columns, the others one.
    const whole = columnsOf(groups.slice(-3), null);
    expect(names(whole)).toEqual([['Wear'], ['Duck', 'Output']]);
    expect(whole.map(({ wide }) => wide)).toEqual([true, false]);
    const chorus = effectById('chorus');
    expect(names(columnsOf(groupsOf(chorus, undefined, 1, chorus.main), null))).toEqual([
      ['Copies'],
      ['Motion'],
      ['Band'],
      ['Wear', 'Output'],
    ]);
    const flanger = effectById('flanger');
    expect(columnsOf(groupsOf(flanger, undefined, 1, flanger.main), null)).toHaveLength(4);
  });

  it('stand around one that is wide: a large one beside it, the rest under it', () => {
    const reverb = effectById('reverb');
    const columns = columnsOf(groupsOf(reverb, undefined, 1, reverb.main, reverbView.shows), null);
    expect(columns.map(({ tall, wide }) => [tall, wide]).slice(0, 2)).toEqual([
      [true, false],
      [false, true],
    ]);
    expect(names(columns)[0]).toEqual(['Before the room']);
    expect(columns.slice(2).length).toBeLessThanOrEqual(3);
    expect(columns.slice(2).every(({ tall, wide }) => !tall && !wide)).toBe(true);
    const all = groupsOf(reverb, undefined, 1, reverb.main, reverbView.shows).map(([name]) => name);
    expect(names(columns).flat().sort()).toEqual([...all].sort());
  });

  it('of one item of a list are wide when asked to', () => {
    const eq = effectById('eq');
    const [bands] = columnsOf(groupsOf(eq, eq.lists[0], 3, []), ' 3');
    expect([bands!.wide, bands!.groups[0]![0]]).toEqual([true, 'Band 3']);
  });
});
