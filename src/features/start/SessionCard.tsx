'use client';

import { useState, type MouseEvent } from 'react';
import Link from 'next/link';
import { EllipsisVertical } from 'lucide-react';
import Dropdown from 'react-bootstrap/Dropdown';
import type { SessionSummary } from '@/core/protocol/http';
import { NAME_LENGTH } from '@/core/session/nameLength';
import { cutText } from '@/core/text';
import { changeSession } from '@/runtime/client/api';
import { fetchAhead } from './fetchAhead';
import { formatSeconds } from '../ui/music';
import { RenameInput } from '../controls/RenameInput';

const MOMENT = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' });

/** Reading a session takes the effects and more, which the start page does without until then. */
async function duplicate(id: string, name: string): Promise<void> {
  const { duplicateSession } = await import('@/runtime/client/storedSessions');
  await duplicateSession(id, name);
}

interface Props {
  readonly session: SessionSummary;
  readonly onChange: (work: Promise<unknown>) => void;
}

/** A session as it sounds, and what can be done with it. */
export function SessionCard({ session, onChange }: Props) {
  const { id, name } = session;
  const [renaming, setRenaming] = useState(false);
  // In another window it is opened by that.
  const ahead = ({ ctrlKey, metaKey, shiftKey }: MouseEvent) => {
    if (!ctrlKey && !metaKey && !shiftKey) fetchAhead(id);
  };
  return (
    <li className="session-card">
      <Link href={`/session/${id}`} prefetch aria-label={name} onClick={ahead}>
        <SessionPicture session={session} />
      </Link>
      <div className="session-line">
        {renaming ? (
          <RenameInput
            label={`Name of ${name}`}
            name={name}
            className="session-title"
            onRename={(to) => onChange(changeSession(id, { name: to }))}
            onEnd={() => setRenaming(false)}
          />
        ) : (
          <Link
            href={`/session/${id}`}
            prefetch={false}
            tabIndex={-1}
            className="session-title"
            title={name}
            onClick={ahead}
          >
            {name}
          </Link>
        )}
        <Dropdown align="end">
          <Dropdown.Toggle variant="icon" bsPrefix="session-menu" aria-label={`More for ${name}`}>
            <EllipsisVertical size={14} aria-hidden="true" />
          </Dropdown.Toggle>
          <Dropdown.Menu>
            {/* The menu gives the focus back when it closes; the name takes it after that. */}
            <Dropdown.Item as="button" onClick={() => setTimeout(() => setRenaming(true))}>
              Rename
            </Dropdown.Item>
            <Dropdown.Item as="button" onClick={() => onChange(duplicate(id, copyName(name)))}>
              Duplicate
            </Dropdown.Item>
            <Dropdown.Item as="button" onClick={() => onChange(changeSession(id, { binned: true }))}>
              Put into the bin
            </Dropdown.Item>
          </Dropdown.Menu>
        </Dropdown>
      </div>
      <p>
        <span>
          {session.tracks} {session.tracks === 1 ? 'track' : 'tracks'}, {formatSeconds(session.seconds)}
        </span>
        <span suppressHydrationWarning>{MOMENT.format(new Date(session.updatedAt))}</span>
      </p>
    </li>
  );
}

const COPY = ', copy';

/** Name of a copy; the server puts a number behind it where there is one already. */
const copyName = (name: string) => cutText(name, NAME_LENGTH - COPY.length) + COPY;

const LANE = 14;

/** The clips of a session as they lie on its lanes, as loud as they are. */
function SessionPicture({ session }: { readonly session: SessionSummary }) {
  const lanes = Math.max(4, session.tracks);
  return (
    <svg
      className="session-picture"
      viewBox={`0 0 640 ${lanes * LANE + 8}`}
      preserveAspectRatio="none"
      aria-hidden="true"
    >
      {Array.from({ length: lanes }, (_, lane) => (
        <line key={lane} x1="0" x2="640" y1={(lane + 0.5) * LANE + 4} y2={(lane + 0.5) * LANE + 4} />
      ))}
      {session.picture.map(([lane, from, to, levels], index) => (
        <path key={index} d={outline(from * 640, to * 640, (lane + 0.5) * LANE + 4, levels ?? 'z')} />
      ))}
    </svg>
  );
}

/** A closed outline around a middle, out along the levels and back along the same. */
function outline(from: number, to: number, middle: number, levels: string): string {
  const heights = [...levels].map((digit) => 0.6 + Math.sqrt(parseInt(digit, 36) / 35) * (LANE / 2 - 1.6));
  const x = (n: number) => (from + ((to - from) * n) / heights.length).toFixed(1);
  const steps = (up: 1 | -1) => heights.map((height, n) => [n, middle - up * height] as const);
  const there = steps(1).map(([n, y]) => `L${x(n)} ${y.toFixed(1)}L${x(n + 1)} ${y.toFixed(1)}`);
  const back = steps(-1)
    .reverse()
    .map(([n, y]) => `L${x(n + 1)} ${y.toFixed(1)}L${x(n)} ${y.toFixed(1)}`);
  return `M${x(0)} ${middle}${there.join('')}${back.join('')}Z`;
}
