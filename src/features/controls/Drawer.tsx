'use client';

import { useEffect, useRef, type ReactNode } from 'react';
import CloseButton from 'react-bootstrap/CloseButton';
import { useStudio } from '../session/StudioContext';

/** A list that stands beside the screen and pushes it aside: what it acts on stays in sight. */
export function Drawer({ title, children }: { title: string; children: ReactNode }) {
  const studio = useStudio();
  const head = useRef<HTMLHeadingElement>(null);
  const opener = useRef<Element | null>(null);
  useEffect(() => {
    opener.current = document.activeElement;
    head.current?.focus({ preventScroll: true });
  }, []);
  const close = () => {
    studio.set({ drawer: null });
    if (opener.current instanceof HTMLElement) opener.current.focus();
  };
  return (
    <section
      className="drawer"
      aria-label={title}
      onKeyDown={(event) => {
        if (event.key === 'Escape' && !event.defaultPrevented) close();
      }}
    >
      <header>
        <h2 ref={head} tabIndex={-1}>
          {title}
        </h2>
        <CloseButton aria-label={`Close ${title.toLowerCase()}`} onClick={close} />
      </header>
      <div className="drawer-body">{children}</div>
    </section>
  );
}
