'use client';

import { X } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import { useStudio, useStudioState } from '../session/StudioContext';

/** The one place that shows errors and long work. */
export function Notices() {
  const studio = useStudio();
  const { problems, jobs } = useStudioState(({ problems, jobs }) => ({ problems, jobs }));
  if (problems.length === 0 && jobs.length === 0) return null;
  return (
    <div className="notices">
      {jobs.map((job) => (
        <div key={job.id} className="notice" role="status">
          <span className="notice-text">{job.label}</span>
          <progress max={1} value={job.done} aria-label={job.label} />
          <Button variant="line" onClick={job.cancel}>
            Cancel
          </Button>
        </div>
      ))}
      {problems.map((problem) => (
        <div key={problem.id} className="notice notice-problem" role="alert">
          <span className="notice-text">
            <b>{problem.message}</b> {problem.kept} {problem.next}
          </span>
          {problem.offer && (
            <Button
              variant="line"
              onClick={() => {
                studio.messages.dismiss(problem.id);
                problem.offer!.act();
              }}
            >
              {problem.offer.label}
            </Button>
          )}
          <Button variant="icon" aria-label="Close this message" onClick={() => studio.messages.dismiss(problem.id)}>
            <X size={14} aria-hidden="true" />
          </Button>
        </div>
      ))}
    </div>
  );
}
