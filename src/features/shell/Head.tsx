'use client';

import Link from 'next/link';
import { BookOpen, Redo2, Search, Undo2 } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import Nav from 'react-bootstrap/Nav';
import type { SaveState } from '@/features/session/state';
import { DRAWERS, VIEWS, type View } from '@/features/session/views';
import { useStudio, useStudioState } from '@/features/session/StudioContext';
import { EditableText } from '@/features/ui/EditableText';
import { ThemeButton } from '@/features/ui/ThemeButton';

const SAVE_WORDS: Record<SaveState, string> = {
  saved: 'Saved',
  waiting: 'Saving soon',
  saving: 'Saving',
  failing: 'Not saved, trying again',
};

/** The bar above everything: the session, its views, drawers, undo, saving and bouncing. */
export function Head() {
  const studio = useStudio();
  const { name, saveState, drawer } = useStudioState((state) => ({
    name: state.document.session.name,
    saveState: state.saveState,
    drawer: state.drawer,
  }));
  return (
    <header className="head">
      <Link href="/" className="brand">
        Kinetikon
      </Link>
      <EditableText
        label="Name of the session"
        text={name}
        width={220}
        onTyped={(text) => studio.editor.perform({ type: 'session.set', values: { name: text } }, 'Rename the session')}
      />
      <ViewTabs />
      <div className="head-tools">
        {DRAWERS.filter(({ name: word }) => word !== null).map(({ id, name: word }) => (
          <Button
            key={id}
            variant="line"
            aria-expanded={drawer === id}
            onClick={() => studio.set({ drawer: drawer === id ? null : id })}
          >
            {word}
          </Button>
        ))}
        <UndoButtons />
        <span className={`save-state save-${saveState}`} role="status">
          {SAVE_WORDS[saveState]}
        </span>
        <Button
          variant="icon"
          aria-label="Find a command, a place or an effect"
          title="Find a command, a place or an effect: Ctrl+K"
          onClick={() => studio.set({ help: 'find' })}
        >
          <Search size={15} aria-hidden="true" />
        </Button>
        <Button
          variant="icon"
          aria-expanded={drawer === 'manual'}
          aria-label="Manual"
          title="Manual: how things are done"
          onClick={() => studio.set({ drawer: drawer === 'manual' ? null : 'manual' })}
        >
          <BookOpen size={15} aria-hidden="true" />
        </Button>
        <ThemeButton />
        <Button variant="solid" onClick={() => studio.set({ bouncing: true })}>
          Bounce
        </Button>
      </div>
    </header>
  );
}

function ViewTabs() {
  const studio = useStudio();
  const view = useStudioState((state) => state.view);
  return (
    <Nav
      as="nav"
      className="views"
      aria-label="Views"
      activeKey={view}
      onSelect={(id) => studio.set({ view: id as View })}
    >
      {VIEWS.map(({ id, name: word }) => (
        <Nav.Link as="button" type="button" key={id} eventKey={id} aria-current={view === id ? 'page' : undefined}>
          {word}
        </Nav.Link>
      ))}
    </Nav>
  );
}

function UndoButtons() {
  const studio = useStudio();
  const { past, future } = useStudioState(({ history }) => ({
    past: history.past.at(-1)?.label,
    future: history.future.at(-1)?.label,
  }));
  return (
    <>
      <Button
        variant="icon"
        disabled={!past}
        aria-label={past ? `Undo: ${past}` : 'Undo'}
        title={past ? `Undo: ${past}` : 'Nothing to undo'}
        onClick={() => studio.editor.undo()}
      >
        <Undo2 size={16} aria-hidden="true" />
      </Button>
      <Button
        variant="icon"
        disabled={!future}
        aria-label={future ? `Redo: ${future}` : 'Redo'}
        title={future ? `Redo: ${future}` : 'Nothing to redo'}
        onClick={() => studio.editor.redo()}
      >
        <Redo2 size={16} aria-hidden="true" />
      </Button>
    </>
  );
}
