'use client';

import { useEffect, useRef, useState } from 'react';
import Link from 'next/link';
import { Redo2, Search, Undo2 } from 'lucide-react';
import { Panel, PanelGroup, PanelResizeHandle } from 'react-resizable-panels';
import Button from 'react-bootstrap/Button';
import Nav from 'react-bootstrap/Nav';
import { LISTENING_PLACES } from '@/core/listening/catalogue';
import { TrackList } from '@/features/trackList/TrackList';
import { Chain } from '@/features/effects/chain/Chain';
import type { SaveState } from '@/features/session/state';
import { DRAWERS, VIEWS, type View } from '@/features/session/views';
import { useShortcut } from '@/features/session/shortcuts';
import { useStudio, useStudioState } from '@/features/session/StudioContext';
import { TransportBar } from '@/features/transport/TransportBar';
import { HelpTip } from '@/features/ui/HelpTip';
import { fetchPartsWhenIdle } from '@/features/ui/lazyPart';
import { Notices } from '@/features/controls/Notices';
import { PartBoundary } from '@/features/ui/PartBoundary';
import { typeAhead } from '@/features/ui/typeAhead';
import { EditableText } from '@/features/ui/EditableText';
import { ThemeButton } from '@/features/ui/ThemeButton';
import {
  BounceDialog,
  CommandPalette,
  ContrastDialog,
  DRAWER_PARTS,
  Keyboard,
  KeySheet,
  NoteEditor,
  VIEW_PARTS,
} from './parts';

const SAVE_WORDS: Record<SaveState, string> = {
  saved: 'Saved',
  waiting: 'Saving soon',
  saving: 'Saving',
  failing: 'Not saved, trying again',
};

/** The whole screen of an open session. */
export function Shell() {
  const studio = useStudio();
  const { name, view, saveState, bouncing, contrasting, drawer, help, past, future, noting, keyboard } = useStudioState(
    (state) => ({
      name: state.document.session.name,
      view: state.view,
      saveState: state.saveState,
      bouncing: state.bouncing,
      contrasting: state.contrasting,
      drawer: state.drawer,
      help: state.help,
      noting: state.view === 'timeline' && state.notesFor !== null,
      keyboard: state.keyboard,
      past: state.history.past.at(-1)?.label,
      future: state.history.future.at(-1)?.label,
    }),
  );

  const clicked = useRef<Element | null>(null);
  useEffect(() => {
    const remember = (event: PointerEvent) => (clicked.current = (event.target as Element).closest('button, a'));
    window.addEventListener('pointerdown', remember);
    return () => window.removeEventListener('pointerdown', remember);
  }, []);
  useShortcut('play', () => {
    const focused = document.activeElement;
    // A button reached by keyboard is pressed by the space bar; after a click on one the space bar plays.
    if (focused instanceof HTMLElement && focused.matches('button, a') && focused !== clicked.current) focused.click();
    else studio.transport.toggle();
  });
  useShortcut('start', () => studio.transport.seekBeat(0));
  useShortcut('loop', () => {
    const { loopOn } = studio.state.document.session;
    studio.editor.perform({ type: 'session.set', values: { loopOn: !loopOn } }, 'Loop');
  });
  useShortcut('listen', (event) => void studio.monitor.listenAt(LISTENING_PLACES[Number(event.key) - 1]!.id));
  useShortcut('undo', () => studio.editor.undo());
  useShortcut('redo', () => studio.editor.redo());
  useShortcut('find', () => {
    if (studio.state.help !== 'find') typeAhead.begin();
    studio.set({ help: 'find' });
  });
  useShortcut('keys', () => studio.set({ help: 'keys' }));
  useShortcut('chooseAll', () => {
    const { view, document } = studio.state;
    if (view === 'timeline') studio.set({ clipIds: Object.keys(document.clips), laneId: null, pointIndices: [] });
  });

  const [hasAllParts, setHasAllParts] = useState(false);
  useEffect(() => fetchPartsWhenIdle(() => setHasAllParts(true)), []);
  useEffect(() => {
    // A file that is dropped beside where it belongs must not replace the page.
    const refuse = (event: DragEvent) => event.preventDefault();
    window.addEventListener('dragover', refuse);
    window.addEventListener('drop', refuse);
    return () => {
      window.removeEventListener('dragover', refuse);
      window.removeEventListener('drop', refuse);
    };
  }, []);
  useEffect(() => {
    document.title = `${name}, Kinetikon`;
    const warn = (event: BeforeUnloadEvent) => {
      if (studio.state.saveState === 'saved') return;
      studio.keepUnsaved();
      void studio.save();
      event.preventDefault();
    };
    window.addEventListener('beforeunload', warn);
    return () => window.removeEventListener('beforeunload', warn);
  }, [studio, name]);

  const Centre = VIEW_PARTS[view];
  const Open = drawer && DRAWER_PARTS[drawer];
  return (
    <div className="shell" data-parts={hasAllParts ? 'fetched' : undefined}>
      <header className="head">
        <Link href="/" className="brand">
          Kinetikon
        </Link>
        <EditableText
          label="Name of the session"
          text={name}
          width={220}
          onTyped={(text) =>
            studio.editor.perform({ type: 'session.set', values: { name: text } }, 'Rename the session')
          }
        />
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
          <ThemeButton />
          <Button variant="solid" onClick={() => studio.set({ bouncing: true })}>
            Bounce
          </Button>
        </div>
      </header>
      <PanelGroup tagName="main" direction="horizontal" autoSaveId="kinetikon.columns" className="columns">
        <h1 className="visually-hidden">{`${name}: ${view}`}</h1>
        <Panel id="cast" order={1} defaultSize={15.625} minSize={12} maxSize={30} collapsible>
          <PartBoundary name="The cast">
            <TrackList />
          </PartBoundary>
        </Panel>
        <PanelResizeHandle
          className="column-handle"
          aria-label="Width of the cast"
          title="Drag to resize; drag to the edge to fold away"
        />
        {Open && (
          <>
            <Panel id="drawer" order={2} defaultSize={24} minSize={20} maxSize={40}>
              <Open />
            </Panel>
            <PanelResizeHandle className="column-handle" aria-label="Width of the drawer" title="Drag to resize" />
          </>
        )}
        <Panel id="centre" order={3} minSize={30}>
          <div className="centre">
            <div className="centre-view">
              <PartBoundary key={view} name="This view">
                <Centre />
              </PartBoundary>
            </div>
            {noting && <NoteEditor />}
            {keyboard && <Keyboard />}
            <Notices />
          </div>
        </Panel>
        <PanelResizeHandle
          className="column-handle"
          aria-label="Width of the signal path"
          title="Drag to resize; drag to the edge to fold away"
        />
        <Panel id="chain" order={4} defaultSize={23.4375} minSize={18} maxSize={40} collapsible>
          <PartBoundary name="The signal path">
            <Chain />
          </PartBoundary>
        </Panel>
      </PanelGroup>
      <PartBoundary name="The listening strip">
        <TransportBar />
      </PartBoundary>
      {bouncing && <BounceDialog onClose={() => studio.set({ bouncing: false })} />}
      {contrasting && <ContrastDialog onClose={() => studio.set({ contrasting: false })} />}
      <HelpTip />
      {help === 'keys' && <KeySheet onClose={() => studio.set({ help: null })} />}
      {help === 'find' && <CommandPalette onClose={() => studio.set({ help: null })} />}
    </div>
  );
}
