'use client';

import { useCallback, useEffect, useState } from 'react';
import { useRouter } from 'next/navigation';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import type { SessionSummary } from '@/core/protocol/http';
import { listSessions, openDemo } from '@/runtime/client/api';
import { errorNotification, type Notification } from '../session/notifications';
import { ThemeButton } from '../ui/ThemeButton';
import { Bin } from './Bin';
import { fetchAhead } from './fetchAhead';
import { NewSession } from './NewSession';
import { SessionCard } from './SessionCard';
import { UnusedSounds } from './UnusedSounds';

/** So many sessions are searched and sorted. */
const MANY = 10;

const PROMISES = [
  ['echoes', 'Echoes on the beat grid', 'Delays, chorus and flanging by note values, drawn as they sound.'],
  ['room', 'Rooms around a voice', 'Reflections and tail apart, decay by octave, recorded and simulated places.'],
  ['swell', 'Swells that land', 'A reversed reverb grows towards a word and ends on it, to the frame.'],
] as const;

const ORDERS = {
  changed: {
    name: 'Changed last',
    compare: (a: SessionSummary, b: SessionSummary) => (a.updatedAt < b.updatedAt ? 1 : -1),
  },
  name: { name: 'By name', compare: (a: SessionSummary, b: SessionSummary) => a.name.localeCompare(b.name) },
  length: { name: 'Longest first', compare: (a: SessionSummary, b: SessionSummary) => b.seconds - a.seconds },
} as const;

interface Props {
  readonly initial: readonly SessionSummary[];
  /** True if there is a demo to open. */
  readonly demo: boolean;
}

/** The start page: what Kinetikon does, the sessions, and a new one. */
export function StartPage({ initial, demo }: Props) {
  const router = useRouter();
  const [sessions, setSessions] = useState(initial);
  const [problem, setProblem] = useState<Notification | null>(null);
  const [search, setSearch] = useState('');
  const [order, setOrder] = useState<keyof typeof ORDERS>('changed');
  const [opening, setOpening] = useState(false);

  const report = useCallback((error: unknown) => setProblem(errorNotification(error)), []);
  const look = useCallback(() => listSessions().then(setSessions, report), [report]);
  useEffect(() => {
    void look();
  }, [look]);

  /** Does something to sessions and shows what they are then. */
  const change = useCallback(
    (work: Promise<unknown>) => {
      setProblem(null);
      work.catch(report).finally(() => void look());
    },
    [look, report],
  );
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

  const kept = sessions.filter(({ binnedAt }) => binnedAt === null);
  const shown = kept
    .filter(({ name }) => name.toLowerCase().includes(search.trim().toLowerCase()))
    .sort(ORDERS[order].compare);
  const names = new Set(sessions.map(({ name }) => name));
  return (
    <div className="start">
      <header className="start-head">
        <h1>Kinetikon</h1>
        <p>Place and animate voices and instruments with space and time.</p>
        <ThemeButton />
      </header>
      <main>
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
          <section aria-labelledby="sessions-title">
            <div className="sessions-head">
              <h2 id="sessions-title">Sessions</h2>
              {kept.length >= MANY && (
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
                    onChange={(event) => setOrder(event.target.value as keyof typeof ORDERS)}
                  >
                    {Object.entries(ORDERS).map(([id, { name }]) => (
                      <option key={id} value={id}>
                        {name}
                      </option>
                    ))}
                  </Form.Select>
                </>
              )}
            </div>
            {kept.length === 0 ? (
              <p className="empty-hint">
                None yet. Begin one on the right and drop your sounds onto it
                {demo ? ', or look around in the demo.' : '.'}
              </p>
            ) : (
              <ul className="session-list">
                {shown.map((session) => (
                  <SessionCard key={session.id} session={session} names={names} onChange={change} />
                ))}
              </ul>
            )}
            {kept.length > 0 && shown.length === 0 && <p className="empty-hint">No session of that name.</p>}
            <Bin sessions={sessions.filter(({ binnedAt }) => binnedAt !== null)} onChange={change} />
          </section>
          <aside>
            <NewSession onProblem={report} />
            {demo && (
              <section aria-labelledby="demo-title">
                <h2 id="demo-title">Demo</h2>
                <p>
                  Low Water Signal: a lamp keeper sings for ships while the tide comes in. Each time it opens as a fresh
                  copy.
                </p>
                <Button variant="line" disabled={opening} onClick={start}>
                  Open the demo
                </Button>
              </section>
            )}
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
