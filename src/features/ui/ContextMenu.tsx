'use client';

import { useEffect, useRef } from 'react';
import Dropdown from 'react-bootstrap/Dropdown';
import { ActItems, type Act } from './ActItems';

/** A menu under the right button, or at the menu key. */
export interface OpenMenu {
  /** In pixels of the window. */
  readonly x: number;
  readonly y: number;
  /** The thing it belongs to. */
  readonly label: string;
  readonly acts: readonly Act[];
}

interface Props extends OpenMenu {
  readonly onClose: () => void;
}

/** All that can be done with a thing, where it was pressed. */
export function ContextMenu({ x, y, label, acts, onClose }: Props) {
  const menu = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const before = document.activeElement as HTMLElement | null;
    const own = menu.current!;
    // Once it has its place: focus would scroll to it before.
    const frame = requestAnimationFrame(() => own.querySelector<HTMLElement>('.dropdown-item')?.focus());
    return () => {
      cancelAnimationFrame(frame);
      // An act may have moved the focus elsewhere: it stays there.
      const now = document.activeElement;
      if (now === document.body || own.contains(now)) before?.focus({ preventScroll: true });
    };
  }, []);
  return (
    <Dropdown show onToggle={(isOpen) => !isOpen && onClose()} className="context-menu" style={{ left: x, top: y }}>
      <Dropdown.Toggle as="span" bsPrefix="context-menu-place" tabIndex={-1} aria-hidden="true" />
      <Dropdown.Menu ref={menu} aria-label={label} onClick={onClose}>
        <Dropdown.Header>{label}</Dropdown.Header>
        <ActItems acts={acts} />
      </Dropdown.Menu>
    </Dropdown>
  );
}
