'use client';

import { useEffect, useState, type ComponentType } from 'react';
import { PartBoundary } from './PartBoundary';
import { PartFailure } from './PartFailure';

interface PartProps {
  readonly onClose?: () => void;
}

/** Parts that have not been fetched yet. */
const waiting = new Set<() => Promise<unknown>>();

/**
 * A part of the page that is fetched when it is shown first, or before that by `fetchPartsWhenIdle`. One that cannot be
 * fetched or breaks says so in its place and can be tried again; the rest of the page goes on.
 * @param name as a sentence begins with it: "The stage"
 */
export function lazyPart<Props extends object = object>(
  name: string,
  load: () => Promise<ComponentType<Props>>,
): ComponentType<Props & PartProps> {
  let loaded: ComponentType<Props> | null = null;
  const fetchPart = async () => {
    loaded ??= await load();
    waiting.delete(fetchPart);
    return loaded;
  };
  waiting.add(fetchPart);

  return function LazyPart(props: Props & PartProps) {
    const { onClose } = props;
    const [Part, setPart] = useState<ComponentType<Props> | null>(() => loaded);
    const [attempt, setAttempt] = useState(0);
    const [failed, setFailed] = useState(false);
    useEffect(() => {
      let gone = false;
      fetchPart().then(
        (part) => !gone && setPart(() => part),
        () => !gone && setFailed(true),
      );
      return () => {
        gone = true;
      };
    }, [attempt]);
    if (Part) {
      return (
        <PartBoundary name={name} {...(onClose ? { onClose } : {})}>
          <Part {...props} />
        </PartBoundary>
      );
    }
    if (!failed) return <div className="part-loading" role="status" aria-label={`${name} is being loaded`} />;
    return (
      <PartFailure
        name={name}
        why="The server does not answer."
        onRetry={() => {
          setFailed(false);
          setAttempt(attempt + 1);
        }}
        onClose={onClose}
      />
    );
  };
}

/**
 * Fetches all parts, one after the other, while the page is idle. A part that fails is fetched again when it is shown.
 * @param onFetched called once all have been tried
 * @returns stops it
 */
export function fetchPartsWhenIdle(onFetched: () => void): () => void {
  let isStopped = false;
  const fetchAll = async () => {
    for (const fetchPart of [...waiting]) {
      await new Promise((resolve) => requestIdleCallback(resolve, { timeout: 5000 }));
      if (isStopped) return;
      await fetchPart().catch(() => {});
    }
    if (!isStopped) onFetched();
  };
  void fetchAll();
  return () => {
    isStopped = true;
  };
}
