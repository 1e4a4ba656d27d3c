'use client';

import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import type { SessionSummary } from '@/core/protocol/http';
import { changeSession, removeSession } from '@/runtime/client/api';

interface Props {
  readonly sessions: readonly SessionSummary[];
  readonly onChange: (work: Promise<unknown>) => void;
}

/** Sessions that were put away: they come back, or go for good. Nothing while there are none. */
export function Bin({ sessions, onChange }: Props) {
  const [open, setOpen] = useState(false);
  const [asking, setAsking] = useState<string | null>(null);
  if (sessions.length === 0) return null;
  return (
    <div className="bin">
      <Button variant="plain" aria-expanded={open} onClick={() => setOpen(!open)}>
        Bin ({sessions.length})
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
                  <Button variant="plain" aria-label={`Remove ${name}`} onClick={() => setAsking(id)}>
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
