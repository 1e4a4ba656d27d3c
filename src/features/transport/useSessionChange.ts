import type { SessionRecord } from '@/core/session/records/session';
import { useStudio } from '../session/StudioContext';

/** Changes the session as one step. */
export function useSessionChange() {
  const studio = useStudio();
  return (values: Partial<SessionRecord>, label: string) =>
    studio.editor.perform({ type: 'session.set', values }, label);
}
