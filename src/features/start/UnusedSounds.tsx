'use client';

import { useEffect, useState } from 'react';
import Button from 'react-bootstrap/Button';
import type { UnusedAsset } from '@/core/protocol/http';
import { listUnused, sweepUnused } from '@/runtime/client/api';

const inMb = (bytes: number) => `${(bytes / 1024 / 1024).toFixed(1)} MB`;

/** Sounds that no session has used for a week, and a way to be rid of them; nothing while there are none. */
export function UnusedSounds({ onProblem }: { onProblem: (error: unknown) => void }) {
  const [unused, setUnused] = useState<readonly UnusedAsset[]>([]);
  const [asking, setAsking] = useState(false);
  const [gone, setGone] = useState('');

  useEffect(() => {
    listUnused().then(setUnused, onProblem);
  }, [onProblem]);

  const sweep = async () => {
    try {
      const swept = await sweepUnused();
      setGone(`${swept.length} ${swept.length === 1 ? 'sound' : 'sounds'} removed.`);
      setUnused([]);
    } catch (error) {
      onProblem(error);
    }
    setAsking(false);
  };

  if (unused.length === 0) return gone === '' ? null : <p role="status">{gone}</p>;
  const bytes = unused.reduce((sum, one) => sum + one.bytes, 0);
  return (
    <section aria-labelledby="unused-title">
      <h2 id="unused-title">Unused sounds</h2>
      <p>
        {unused.length} {unused.length === 1 ? 'sound' : 'sounds'}, {inMb(bytes)}, that no session has used for a week:{' '}
        {unused
          .slice(0, 5)
          .map(({ name }) => name)
          .join(', ')}
        {unused.length > 5 ? ' …' : ''}
      </p>
      {asking ? (
        <span className="confirm">
          <Button variant="solid" onClick={() => void sweep()}>
            Remove them for good
          </Button>
          <Button variant="line" onClick={() => setAsking(false)}>
            Keep
          </Button>
        </span>
      ) : (
        <Button variant="line" onClick={() => setAsking(true)}>
          Remove…
        </Button>
      )}
    </section>
  );
}
