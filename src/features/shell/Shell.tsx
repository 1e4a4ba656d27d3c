'use client';

import { useEffect, useState } from 'react';
import { Panel, PanelGroup, PanelResizeHandle } from 'react-resizable-panels';
import { TrackList } from '@/features/trackList/TrackList';
import { Chain } from '@/features/effects/chain/Chain';
import { useStudio, useStudioState } from '@/features/session/StudioContext';
import { LoadingSounds } from '@/features/transport/LoadingSounds';
import { TransportBar } from '@/features/transport/TransportBar';
import { HelpTip } from '@/features/ui/HelpTip';
import { useFocusKept } from '@/features/ui/useFocusKept';
import { fetchPartsWhenIdle } from '@/features/ui/lazyPart';
import { Notices } from '@/features/controls/Notices';
import { PartBoundary } from '@/features/ui/PartBoundary';
import { Head } from './Head';
import { Menus } from './Menus';
import {
  ArrivalDialog,
  BounceDialog,
  CommandPalette,
  DRAWER_PARTS,
  Keyboard,
  KeySheet,
  NoteEditor,
  VIEW_PARTS,
} from './parts';
import { useLeaveGuard } from './useLeaveGuard';
import { useMovement } from './useMovement';
import { useShellShortcuts } from './useShellShortcuts';

/** The whole screen of an open session. */
export function Shell() {
  const studio = useStudio();
  const { name, view, bouncing, drawer, help, noting, keyboard } = useStudioState((state) => ({
    name: state.document.session.name,
    view: state.view,
    bouncing: state.bouncing,
    drawer: state.drawer,
    help: state.help,
    noting: state.view === 'timeline' && state.notesFor !== null,
    keyboard: state.keyboard,
  }));
  useShellShortcuts();
  useFocusKept();
  const [hasAllParts, setHasAllParts] = useState(false);
  useEffect(() => fetchPartsWhenIdle(() => setHasAllParts(true)), []);
  useMovement(studio);
  useLeaveGuard(name);
  const Centre = VIEW_PARTS[view];
  const Open = drawer && DRAWER_PARTS[drawer];
  return (
    <div className="shell" data-parts={hasAllParts ? 'fetched' : undefined}>
      <Head />
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
      <div>
        <LoadingSounds />
      </div>
      <PartBoundary name="The listening strip">
        <TransportBar />
      </PartBoundary>
      {bouncing && <BounceDialog onClose={() => studio.set({ bouncing: false })} />}
      <ArrivalDialog />
      <HelpTip />
      {help === 'keys' && <KeySheet onClose={() => studio.set({ help: null })} />}
      {help === 'find' && <CommandPalette onClose={() => studio.set({ help: null })} />}
      <Menus />
    </div>
  );
}
