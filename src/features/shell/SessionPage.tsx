'use client';

import { useEffect, useState } from 'react';
import Link from 'next/link';
import { runsWasm } from '@/runtime/client/kernels';
import { KinetikonError } from '@/core/errors';
import { BounceStore } from '@/features/session/bounceStore';
import { Drafts, thisTab } from '@/features/session/drafts';
import { openSession } from '@/features/session/prefetch';
import { errorNotification, type Notification } from '@/features/session/notifications';
import { openWithDrafts } from '@/features/session/recovery';
import { sessionStore } from '@/features/session/sessionStore';
import { newId } from '@/features/session/newId';
import { Studio } from '@/features/session/studio';
import { StudioProvider } from '@/features/session/StudioContext';
import { Shell } from './Shell';

const unfit = () =>
  new KinetikonError('engine.unavailable', 'This browser cannot run the engine: it has no WebAssembly with SIMD.', {
    kept: 'The session is untouched.',
    next: 'Open it with a newer browser.',
  });

const NO_DRAFTS = { left: async () => [], remove: async () => {} };

/** Loads a session and keeps it open while the page is. */
export function SessionPage({ id }: { id: string }) {
  const [studio, setStudio] = useState<Studio | null>(null);
  const [problem, setProblem] = useState<Notification | null>(null);

  useEffect(() => {
    let opened: Studio | null = null;
    let gone = false;
    const moveTo = (moved: string) => window.history.replaceState(null, '', `/session/${moved}`);
    const enter = async () => {
      if (!runsWasm()) throw unfit();
      const keeps = 'indexedDB' in window;
      const drafts = keeps ? new Drafts(await thisTab(newId)) : null;
      return {
        drafts,
        bounceStore: keeps ? new BounceStore() : null,
        opening: await openWithDrafts(id, openSession, sessionStore.create, drafts ?? NO_DRAFTS, newId),
      };
    };
    enter()
      .then(({ drafts, bounceStore, opening }) => {
        if (gone) return;
        if (opening.stored.id !== id) moveTo(opening.stored.id);
        opened = new Studio(opening, moveTo, drafts, bounceStore);
        setStudio(opened);
        return opened.open();
      })
      .catch((error: unknown) => setProblem(errorNotification(error)));
    return () => {
      gone = true;
      opened?.close();
      setStudio(null);
    };
  }, [id]);

  if (problem) {
    return (
      <main className="empty-view" role="alert">
        <h1>{problem.message}</h1>
        <p>
          {problem.kept} {problem.next}
        </p>
        <Link className="btn btn-line" href="/">
          To the list of sessions
        </Link>
      </main>
    );
  }
  if (!studio) {
    return (
      <main className="empty-view" role="status">
        Opening the session…
      </main>
    );
  }
  return (
    <StudioProvider studio={studio}>
      <Shell />
    </StudioProvider>
  );
}
