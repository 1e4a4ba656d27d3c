'use client';

import { useCallback, useState, useSyncExternalStore } from 'react';
import { useRouter } from 'next/navigation';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import type { SessionListPage, SessionOrder } from '@/core/protocol/http';
import { openDemo } from '@/runtime/client/api';
import { errorNotification, type Notification } from '../session/notifications';
import { ThemeButton } from '../ui/ThemeButton';
import { useFocusKept } from '../ui/useFocusKept';
import { Bin } from './Bin';
import { fetchAhead } from './fetchAhead';
import { NewSession } from './NewSession';
import { SessionCard } from './SessionCard';
import { UnusedSounds } from './UnusedSounds';
import { useSessionList } from './useSessionList';

/** So many sessions are searched and sorted. */
const MANY = 10;

/** Copies of the demo that are shown at once. */
const FEW_COPIES = 2;

const PROMISES = [
  ['echoes', 'Echoes on the beat grid', 'Delays, chorus and flanging by note values, drawn as they sound.'],
  ['room', 'Rooms around a voice', 'Reflections and tail apart, decay by octave, recorded and simulated places.'],
  ['swell', 'Swells that land', 'A reversed reverb grows towards a word and ends on it, to the frame.'],
] as const;

const ORDERS: Readonly<Record<SessionOrder, string>> = {
  changed: 'Changed last',
  name: 'By name',
  length: 'Longest first',
};

interface Props {
  /** The first page of the list of sessions. */
  readonly initial: SessionListPage;
  /** True if there is a demo to open. */
  readonly demo: boolean;
}

const neverChanges = () => () => {};

/** False where the browser keeps what the engine needs from a page: one that came over plain HTTP from elsewhere. */
const useIsSecure = () =>
  useSyncExternalStore(
    neverChanges,
    () => window.isSecureContext,
    () => true,
  );

/** The start page: what Kinetikon does, the sessions, and a new one. */
export function StartPage({ initial, demo }: Props) {
  const router = useRouter();
  const [problem, setProblem] = useState<Notification | null>(null);
  const [opening, setOpening] = useState(false);
  const [allCopies, setAllCopies] = useState(false);
  const isSecure = useIsSecure();
  useFocusKept();
  const report = useCallback((error: unknown) => setProblem(errorNotification(error)), []);
  const { sessions, kept, binned, hasMore, search, order, setSearch, setOrder, showMore, reload } = useSessionList(
    initial,
    report,
  );

  /** Does something to sessions and shows what they are then. */
  const change = (work: Promise<unknown>) => {
    setProblem(null);
    work.catch(report).finally(reload);
  };
  const start = () => {
    setOpening(true);
    openDemo().then(
      (id) => {
        fetchAhead(id);
        router.push(`/session/${id}`);
      },
      (error: unknown) => {
        setOpening(false);
        report(error);
      },
    );
  };

  const isSearching = search.trim() !== '';
  // Copies of the demo stand under it, except in a search, which lists all sessions together.
  const copies = demo && !isSearching ? sessions.filter(({ fromDemo }) => fromDemo) : [];
  const own = sessions.filter((one) => !copies.includes(one));
  const isNew = own.length === 0 && !hasMore && !isSearching;
  const demoPart = demo && (
    <section aria-labelledby="demo-title">
      <h2 id="demo-title">Demo</h2>
      <p>
        Low Water Signal: a lamp keeper sings for ships while the tide comes in. Each time it opens as a fresh copy.
      </p>
      <Button variant={isNew ? 'solid' : 'line'} disabled={opening} onClick={start}>
        Open the demo
      </Button>
      {copies.length > 0 && (
        <ul className="session-list demo-copies" aria-label="Copies of the demo">
          {(allCopies ? copies : copies.slice(0, FEW_COPIES)).map((session) => (
            <SessionCard key={session.id} session={session} onChange={change} />
          ))}
        </ul>
      )}
      {copies.length > FEW_COPIES && (
        <Button variant="plain" aria-expanded={allCopies} onClick={() => setAllCopies(!allCopies)}>
          {allCopies ? 'Show fewer copies' : `Show all ${copies.length} copies`}
        </Button>
      )}
    </section>
  );

  return (
    <div className="start">
      <header className="start-head">
        <h1>Kinetikon</h1>
        <p>Place and animate voices and instruments with space and time.</p>
        <ThemeButton />
      </header>
      <main>
        {!isSecure && (
          <p role="alert" className="form-error">
            <b>This page did not come over HTTPS.</b> Browsers then run no engine: sessions open, but make no sound. Ask
            whoever runs this server for its secure address.
          </p>
        )}
        <ul className="promises">
          {PROMISES.map(([picture, name, text]) => (
            <li key={picture}>
              <span className={`promise-picture promise-${picture}`} aria-hidden="true" />
              <h2>{name}</h2>
              <p>{text}</p>
            </li>
          ))}
        </ul>
        <div className="start-columns">
          <div className="start-list">
            {isNew && demoPart}
            <section aria-labelledby="sessions-title">
              <div className="sessions-head">
                <h2 id="sessions-title">Sessions</h2>
                {kept >= MANY && (
                  <>
                    <Form.Control
                      type="search"
                      placeholder="search sessions"
                      aria-label="Search sessions"
                      value={search}
                      onChange={(event) => setSearch(event.target.value)}
                    />
                    <Form.Select
                      aria-label="Order of sessions"
                      value={order}
                      onChange={(event) => setOrder(event.target.value as SessionOrder)}
                    >
                      {Object.entries(ORDERS).map(([id, name]) => (
                        <option key={id} value={id}>
                          {name}
                        </option>
                      ))}
                    </Form.Select>
                  </>
                )}
              </div>
              {isNew ? (
                <p className="empty-hint">None yet. Begin one on the right and drop your sounds onto it.</p>
              ) : (
                <ul className="session-list">
                  {own.map((session) => (
                    <SessionCard key={session.id} session={session} onChange={change} />
                  ))}
                </ul>
              )}
              {isSearching && sessions.length === 0 && <p className="empty-hint">No session of that name.</p>}
              {hasMore && (
                <Button variant="line" className="session-more" onClick={showMore}>
                  Show more
                </Button>
              )}
              <Bin count={binned} onChange={change} onProblem={report} />
            </section>
            {!isNew && demoPart}
          </div>
          <aside>
            <NewSession isMain={!isNew || !demo} onProblem={report} />
            {problem && (
              <p role="alert" className="form-error">
                <b>{problem.message}</b> {problem.kept} {problem.next}
              </p>
            )}
            <UnusedSounds onProblem={report} />
          </aside>
        </div>
      </main>
    </div>
  );
}
