import { useEffect } from 'react';
import { useStudio } from '@/features/session/StudioContext';

/** Names the page, and keeps it from being left with unsaved work or a bounce under way, or replaced by a file that is dropped on it. */
export function useLeaveGuard(name: string): void {
  const studio = useStudio();
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
      const isSaved = studio.state.saveState === 'saved';
      if (!isSaved) {
        studio.keepUnsaved();
        void studio.save();
      }
      if (!isSaved || studio.bounces.isBusy) event.preventDefault();
    };
    window.addEventListener('beforeunload', warn);
    return () => window.removeEventListener('beforeunload', warn);
  }, [studio, name]);
}
