import { useCallback, useEffect, useRef, useState } from 'react';
import type { SessionListPage, SessionOrder, SessionSummary } from '@/core/protocol/http';
import { listSessions } from '@/runtime/client/api';

const TYPING_MS = 200;

export interface SessionList extends Omit<SessionListPage, 'next'> {
  /** True if there are more sessions than those shown. */
  readonly hasMore: boolean;
  readonly search: string;
  readonly order: SessionOrder;
  readonly setSearch: (search: string) => void;
  readonly setOrder: (order: SessionOrder) => void;
  readonly showMore: () => void;
  /** Looks again at all that is shown. */
  readonly reload: () => void;
}

/** The list of sessions, page by page, searched and sorted by the server. */
export function useSessionList(initial: SessionListPage, onProblem: (error: unknown) => void): SessionList {
  const [page, setPage] = useState(initial);
  const [search, setSearch] = useState('');
  const [order, setOrder] = useState<SessionOrder>('changed');
  /** The newest request; answers to others come too late. */
  const newest = useRef(0);
  const shown = useRef(initial.sessions.length);

  const load = useCallback(
    async (atLeast: number) => {
      const own = ++newest.current;
      try {
        let sessions: readonly SessionSummary[] = [];
        let next: string | null = null;
        let last: SessionListPage;
        do {
          last = await listSessions({ search: search.trim(), order, after: next });
          if (own !== newest.current) return;
          sessions = [...sessions, ...last.sessions];
          next = last.next;
        } while (next !== null && sessions.length < atLeast);
        shown.current = sessions.length;
        setPage({ ...last, sessions });
      } catch (error) {
        if (own === newest.current) onProblem(error);
      }
    },
    [search, order, onProblem],
  );
  const first = useRef(true);
  useEffect(() => {
    // The page may be one that the browser kept: what it shows is looked at again at once.
    const timer = setTimeout(() => void load(0), first.current ? 0 : TYPING_MS);
    first.current = false;
    return () => clearTimeout(timer);
  }, [load]);

  return {
    sessions: page.sessions,
    kept: page.kept,
    binned: page.binned,
    hasMore: page.next !== null,
    search,
    order,
    setSearch,
    setOrder,
    showMore: () => void load(shown.current + 1),
    reload: () => void load(shown.current),
  };
}
