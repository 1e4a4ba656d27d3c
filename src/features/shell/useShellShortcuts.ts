import { useEffect, useRef } from 'react';
import { LISTENING_PLACES } from '@/core/listening/catalogue';
import { useShortcut } from '@/features/session/shortcuts';
import { useStudio } from '@/features/session/StudioContext';
import { typeAhead } from '@/features/ui/typeAhead';

/** Keys that do the same in every view. */
export function useShellShortcuts(): void {
  const studio = useStudio();
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
}
