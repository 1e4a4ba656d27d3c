'use client';

import { useEffect, useState } from 'react';
import Button from 'react-bootstrap/Button';
import type { SessionSummary } from '@/core/protocol/http';
import { changeSession, listSessions, removeSession } from '@/runtime/client/api';

/** Most sessions of the bin that are listed. */
const MOST = 200;

interface Props {
  /** Number of sessions in the bin. */
  readonly count: number;
  readonly onChange: (work: Promise<unknown>) => void;
  readonly onProblem: (error: unknown) => void;
}

/** Sessions that were put away: they come back, or go for good. Nothing while there are none. */
export function Bin({ count, onChange, onProblem }: Props) {
  const [open, setOpen] = useState(false);
  const [asking, setAsking] = useState<string | null>(null);
  const [sessions, setSessions] = useState<readonly SessionSummary[]>([]);
  useEffect(() => {
    if (!open || count === 0) return;
    let current = true;
    listSessions({ binned: true, limit: MOST }).then((page) => current && setSessions(page.sessions), onProblem);
    return () => {
      current = false;
    };
  }, [open, count, onProblem]);
  if (count === 0) return null;
  return (
    <div className="bin">
      <Button variant="plain" aria-expanded={open} onClick={() => setOpen(!open)}>
        Bin ({count})
      </Button>
      {open && (
        <ul aria-label="Sessions in the bin">
          {sessions.map(({ id, name }) => (
            <li key={id}>
              <b title={name}>{name}</b>
              {asking === id ? (
                <>
                  <Button variant="solid" onClick={() => onChange(removeSession(id))}>
                    Remove for good
                  </Button>
                  <Button variant="line" onClick={() => setAsking(null)}>
                    Keep
                  </Button>
                </>
              ) : (
                <>
                  <Button
                    variant="line"
                    aria-label={`Take ${name} out of the bin`}
                    onClick={() => onChange(changeSession(id, { binned: false }))}
                  >
                    Take out
                  </Button>
                  <Button variant="line" aria-label={`Remove ${name}`} onClick={() => setAsking(id)}>
                    Remove…
                  </Button>
                </>
              )}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
