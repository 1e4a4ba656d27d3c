'use client';

import Button from 'react-bootstrap/Button';

interface Props {
  /** The part as a sentence begins with it: "The stage". */
  readonly name: string;
  readonly why: string;
  readonly onRetry: () => void;
  /** For parts that lie over the page, which can be closed. */
  readonly onClose?: (() => void) | undefined;
}

/** Stands in the place of a part of the page that could not be loaded or shown. */
export function PartFailure({ name, why, onRetry, onClose }: Props) {
  return (
    <div className={onClose ? 'part-failure part-failure-over' : 'part-failure'} role="alert">
      <p>
        <b>{name} could not be shown.</b> {why}
      </p>
      <p>Your work is not affected.</p>
      <div className="part-failure-tools">
        <Button variant="line" onClick={onRetry}>
          Try again
        </Button>
        {onClose && (
          <Button variant="line" onClick={onClose}>
            Close
          </Button>
        )}
      </div>
    </div>
  );
}
