'use client';

import type { ReactNode } from 'react';
import Offcanvas from 'react-bootstrap/Offcanvas';
import { useStudio } from '../session/StudioContext';

/** A list that lies over the left while the rest stays at hand. */
export function Drawer({ title, children }: { title: string; children: ReactNode }) {
  const studio = useStudio();
  return (
    <Offcanvas
      show
      placement="start"
      backdrop={false}
      scroll
      enforceFocus={false}
      className="drawer"
      aria-label={title}
      aria-modal={false}
      onHide={() => studio.set({ drawer: null })}
    >
      <Offcanvas.Header closeButton closeLabel={`Close ${title.toLowerCase()}`}>
        <Offcanvas.Title as="h2">{title}</Offcanvas.Title>
      </Offcanvas.Header>
      <Offcanvas.Body>{children}</Offcanvas.Body>
    </Offcanvas>
  );
}
