'use client';

import { useCallback, useEffect, useState, type FormEvent } from 'react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { Trash2 } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { KinetikonError } from '@/core/errors';
import type { SessionSummary } from '@/core/protocol/http';
import { NAME_LENGTH } from '@/core/session/fields';
import { createSession, listSessions, removeSession } from '@/runtime/client/api';
import { problemFrom, type Problem } from '../session/problems';
import { formatSeconds } from '../ui/music';
import { ThemeButton } from '../ui/ThemeButton';
import { UnusedSounds } from './UnusedSounds';

const MOMENT = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' });

/** The list of sessions, and a new one. */
export function StartPage({ initial }: { initial: SessionSummary[] }) {
  const router = useRouter();
  const [sessions, setSessions] = useState(initial);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [removing, setRemoving] = useState<string | null>(null);
  const [name, setName] = useState('');

  useEffect(() => {
    listSessions().then(setSessions, (error: unknown) => setProblem(problemFrom(error)));
  }, []);

  const report = useCallback((error: unknown) => setProblem(problemFrom(error)), []);

  const begin = async (event: FormEvent) => {
    event.preventDefault();
    try {
      if (name.trim() === '')
        throw new KinetikonError('request.invalid', 'A session needs a name.', {
          next: 'Type one, then press “Begin”.',
        });
      router.push(`/session/${(await createSession(name.trim())).id}`);
    } catch (error) {
      setProblem(problemFrom(error));
    }
  };

  const remove = async (id: string) => {
    try {
      await removeSession(id);
      setSessions(sessions.filter((session) => session.id !== id));
    } catch (error) {
      setProblem(problemFrom(error));
    }
    setRemoving(null);
  };

  return (
    <div className="start">
      <header className="start-head">
        <h1>Kinetikon</h1>
        <p>Place and animate voices and instruments with space and time.</p>
        <ThemeButton />
      </header>
      <main>
        <section aria-labelledby="sessions-title">
          <h2 id="sessions-title">Sessions</h2>
          {sessions.length === 0 ? (
            <p className="empty-hint">There are none yet. Begin one on the right; then drop your sounds onto it.</p>
          ) : (
            <ul className="session-list">
              {sessions.map((session) => (
                <li key={session.id}>
                  <Link href={`/session/${session.id}`} prefetch aria-label={session.name}>
                    <SessionPicture session={session} />
                  </Link>
                  <div className="session-line">
                    <Link href={`/session/${session.id}`} tabIndex={-1} className="session-title" title={session.name}>
                      {session.name}
                    </Link>
                    <span>
                      {session.tracks} {session.tracks === 1 ? 'track' : 'tracks'}, {formatSeconds(session.seconds)}
                    </span>
                    <span suppressHydrationWarning>{MOMENT.format(new Date(session.updatedAt))}</span>
                    {removing === session.id ? (
                      <span className="confirm">
                        <Button variant="solid" onClick={() => void remove(session.id)}>
                          Remove for good
                        </Button>
                        <Button variant="line" onClick={() => setRemoving(null)}>
                          Keep
                        </Button>
                      </span>
                    ) : (
                      <Button
                        variant="icon"
                        aria-label={`Remove ${session.name}`}
                        onClick={() => setRemoving(session.id)}
                      >
                        <Trash2 size={14} aria-hidden="true" />
                      </Button>
                    )}
                  </div>
                </li>
              ))}
            </ul>
          )}
        </section>
        <section aria-labelledby="new-title">
          <h2 id="new-title">New session</h2>
          <form onSubmit={(event) => void begin(event)}>
            <label>
              <span>Name</span>
              <Form.Control value={name} maxLength={NAME_LENGTH} onChange={(event) => setName(event.target.value)} />
            </label>
            <Button type="submit" variant="solid">
              Begin
            </Button>
          </form>
          {problem && (
            <p role="alert" className="form-error">
              <b>{problem.message}</b> {problem.kept} {problem.next}
            </p>
          )}
          <UnusedSounds onProblem={report} />
        </section>
      </main>
    </div>
  );
}

/** The clips of a session as they lie on its lanes. */
function SessionPicture({ session }: { session: SessionSummary }) {
  const lanes = Math.max(4, session.tracks);
  return (
    <svg
      className="session-picture"
      viewBox={`0 0 640 ${lanes * 12 + 8}`}
      preserveAspectRatio="none"
      aria-hidden="true"
    >
      {Array.from({ length: lanes }, (_, lane) => (
        <line key={lane} x1="0" x2="640" y1={lane * 12 + 10} y2={lane * 12 + 10} />
      ))}
      {session.picture.map(([lane, from, to], index) => (
        <rect key={index} x={from * 640} width={Math.max(2, (to - from) * 640 - 1)} y={lane * 12 + 6} height="8" />
      ))}
    </svg>
  );
}
