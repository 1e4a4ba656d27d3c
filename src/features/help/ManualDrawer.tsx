'use client';

import { useState, type MouseEvent } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { Drawer } from '../controls/Drawer';
import { searchManual, type ManualSection } from './manual';
import { MANUAL } from './manual.generated';

/** The manual beside the work: its pages by task, and a search over all of them. */
export function ManualDrawer() {
  const [search, setSearch] = useState('');
  const [pageId, setPageId] = useState<string | null>(null);
  const page = MANUAL.find(({ id }) => id === pageId);
  const open = (id: string) => {
    setSearch('');
    setPageId(id);
  };
  /** A link to another page opens it here. */
  const follow = (event: MouseEvent) => {
    const link = (event.target as Element).closest('a');
    if (!link) return;
    event.preventDefault();
    open(link.getAttribute('href')!.slice(1));
  };
  const found = searchManual(MANUAL, search);
  return (
    <Drawer title="Manual">
      <Form.Control
        className="manual-search"
        type="search"
        aria-label="Search the manual"
        placeholder="search the manual"
        value={search}
        onChange={(event) => setSearch(event.target.value)}
      />
      <div className="manual" onClick={follow}>
        {search.trim() !== '' && (
          <>
            {found.map((section) => (
              <Section key={`${section.page.id} ${section.title}`} section={section} of={section.page.title} />
            ))}
            {found.length === 0 && <p className="empty-hint">Nothing has all of these words. Try fewer.</p>}
          </>
        )}
        {search.trim() === '' && page && (
          <>
            <Button variant="line" onClick={() => setPageId(null)}>
              All pages
            </Button>
            <h3>{page.title}</h3>
            {page.sections.map((section) => (
              <Section key={section.title} section={section} />
            ))}
          </>
        )}
        {search.trim() === '' && !page && (
          <ul className="manual-pages">
            {MANUAL.map(({ id, title, sections }) => (
              <li key={id}>
                <Button bsPrefix="manual-page" onClick={() => open(id)}>
                  <b>{title}</b>
                  <small>{sections.flatMap(({ title: name }) => name || []).join(', ')}</small>
                </Button>
              </li>
            ))}
          </ul>
        )}
      </div>
    </Drawer>
  );
}

/** @param of the page that the section is found on */
function Section({ section: { title, html }, of }: { readonly section: ManualSection; readonly of?: string }) {
  return (
    <section>
      {(title !== '' || of) && (
        <h4>
          {title || of}
          {of && title && <small>{of}</small>}
        </h4>
      )}
      {/* Our own text, turned into HTML when the application is built. */}
      <div dangerouslySetInnerHTML={{ __html: html }} />
    </section>
  );
}
