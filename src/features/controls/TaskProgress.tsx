'use client';

import Button from 'react-bootstrap/Button';
import ProgressBar from 'react-bootstrap/ProgressBar';
import type { LongTask } from '../session/useLongTask';
import './workshop.css';

/** Progress of long work with a button to cancel it, or why it failed. */
export function TaskProgress({ task, what }: { task: LongTask; what: string }) {
  if (task.error) {
    return (
      <p className="workshop-error" role="alert">
        {task.error}
      </p>
    );
  }
  if (task.done === null) return null;
  return (
    <div className="workshop-progress">
      <span>{what}</span>
      <ProgressBar now={task.done * 100} aria-label={what} />
      <Button variant="line" onClick={task.cancel}>
        Cancel
      </Button>
    </div>
  );
}
