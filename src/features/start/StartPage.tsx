'use client';

import { useEffect, useState, type FormEvent } from 'react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { Trash2 } from 'lucide-react';
import { KinetikonError } from '@/core/errors';
import type { SessionSummary } from '@/core/protocol/http';
import { NAME_LENGTH } from '@/core/session/records';
import { createSession, listSessions, removeSession } from '@/runtime/client/api';
import { problemFrom, type Problem } from '../session/problems';
import { formatSeconds } from '../ui/music';
import { ThemeButton } from '../ui/ThemeButton';

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

  const begin = async (event: FormEvent) => {
    event.preventDefault();
    try {
      if (name.trim() === '') throw new KinetikonError('request.invalid', 'A session needs a name.', { next: 'Type one, then press “Begin”.' });
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
            <table className="session-list">
              <thead>
                <tr>
                  <th scope="col">name</th>
                  <th scope="col">tracks</th>
                  <th scope="col">length</th>
                  <th scope="col">changed</th>
                  <th scope="col">
                    <span className="visually-hidden">remove</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {sessions.map((session) => (
                  <tr key={session.id}>
                    <td>
                      <Link href={`/session/${session.id}`}>{session.name}</Link>
                    </td>
                    <td>{session.tracks}</td>
                    <td>{formatSeconds(session.seconds)}</td>
                    <td suppressHydrationWarning>{MOMENT.format(new Date(session.updatedAt))}</td>
                    <td>
                      {removing === session.id ? (
                        <span className="confirm">
                          <button type="button" className="button button-solid" onClick={() => void remove(session.id)}>
                            Remove for good
                          </button>
                          <button type="button" className="button" onClick={() => setRemoving(null)}>
                            Keep
                          </button>
                        </span>
                      ) : (
                        <button type="button" className="icon-button" aria-label={`Remove ${session.name}`} onClick={() => setRemoving(session.id)}>
                          <Trash2 size={14} aria-hidden="true" />
                        </button>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </section>
        <section aria-labelledby="new-title">
          <h2 id="new-title">New session</h2>
          <form onSubmit={(event) => void begin(event)}>
            <label>
              <span>Name</span>
              <input value={name} maxLength={NAME_LENGTH} onChange={(event) => setName(event.target.value)} />
            </label>
            <button type="submit" className="button button-solid">
              Begin
            </button>
          </form>
          {problem && (
            <p role="alert" className="form-error">
              <b>{problem.message}</b> {problem.kept} {problem.next}
            </p>
          )}
        </section>
      </main>
    </div>
  );
}
