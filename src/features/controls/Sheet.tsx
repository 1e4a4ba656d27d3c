'use client';

import { useEffect, useId, useRef, type ReactNode } from 'react';
import CloseButton from 'react-bootstrap/CloseButton';

interface Props {
  readonly title: string;
  readonly onHide: () => void;
  readonly className?: string;
  readonly children: ReactNode;
}

/** Work on what is shown, within it: everything else stays in sight, at hand and heard. Escape closes it. */
export function Sheet({ title, onHide, className = '', children }: Props) {
  const id = useId();
  const sheet = useRef<HTMLElement>(null);
  const head = useRef<HTMLHeadingElement>(null);
  useEffect(() => {
    const opener = document.activeElement;
    const { current } = sheet;
    if (!current!.contains(opener)) head.current!.focus({ preventScroll: true });
    head.current!.scrollIntoView?.({ block: 'nearest' });
    return () => {
      // The focus returns to the opener unless something else has taken it.
      const isLost = document.activeElement === document.body || current!.contains(document.activeElement);
      if (isLost && opener instanceof HTMLElement) opener.focus();
    };
  }, []);
  return (
    <section
      ref={sheet}
      className={`sheet ${className}`}
      aria-labelledby={id}
      onKeyDown={(event) => {
        if (event.key !== 'Escape' || event.defaultPrevented) return;
        event.stopPropagation();
        onHide();
      }}
    >
      <header>
        <h3 ref={head} id={id} tabIndex={-1}>
          {title}
        </h3>
        <CloseButton aria-label={`Close: ${title}`} onClick={onHide} />
      </header>
      {children}
    </section>
  );
}
