import { readFileSync } from 'node:fs';
import { fireEvent, screen, within } from '@testing-library/react';
import { renderIn, testStudio } from '../../../test/support/studio';
import { searchManual } from './manual';
import { MANUAL } from './manual.generated';
import { ManualDrawer } from './ManualDrawer';

const text = () => document.querySelector('.manual')!.textContent!;

describe('the manual', () => {
  it('has the pages of docs/manual in their order, whole', () => {
    const listed = readFileSync('docs/manual/README.md', 'utf8').matchAll(/\]\(([\w-]+)\.md\)/g);
    expect(MANUAL.map(({ id }) => id)).toEqual([...listed].map(([, id]) => id));
    for (const { id, title, sections } of MANUAL) {
      const source = readFileSync(`docs/manual/${id}.md`, 'utf8');
      expect(source.startsWith(`# ${title}\n`)).toBe(true);
      const headings = [...source.matchAll(/^#{2,} (.*)$/gm)].map(([, heading]) => heading!.replaceAll('`', ''));
      expect(sections.flatMap((one) => one.title.replaceAll('`', '') || [])).toEqual(headings);
    }
  });

  it('opens a page, and another by a link, and goes back to all', () => {
    renderIn(testStudio([]).studio, <ManualDrawer />);
    fireEvent.click(screen.getByRole('button', { name: /^Arrange on the timeline/ }));
    expect(screen.getByRole('heading', { name: 'Arrange on the timeline' })).toBeTruthy();
    expect(text()).toContain('Drop sound files (WAV, AIFF, FLAC, MP3, Ogg Vorbis, Opus or AAC) onto the timeline');
    fireEvent.click(screen.getByRole('button', { name: 'All pages' }));
    expect(within(screen.getByRole('list')).getAllByRole('listitem')).toHaveLength(MANUAL.length);
  });

  it('is searched by all words at once, headings first, and says when nothing is found', () => {
    renderIn(testStudio([]).studio, <ManualDrawer />);
    const search = screen.getByRole('searchbox', { name: 'Search the manual' });
    fireEvent.change(search, { target: { value: 'swell word' } });
    expect(screen.getAllByRole('heading', { level: 4 })[0]!.textContent).toContain('Swells into a word');
    fireEvent.change(search, { target: { value: 'swell zeppelin' } });
    expect(text()).toBe('Nothing has all of these words. Try fewer.');
  });

  it('does not find marks of HTML', () => {
    const page = { id: 'a', title: 'A', sections: [{ title: '', html: '<p class="strong">Tide &amp; lamp</p>' }] };
    expect(searchManual([page], 'strong')).toEqual([]);
    expect(searchManual([page], 'tide &')).toHaveLength(1);
  });
});
