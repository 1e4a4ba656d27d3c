'use client';

import { useEffect, useState } from 'react';
import { useStudio } from '../session/StudioContext';
import { ContextMenu, type OpenMenu } from '../ui/ContextMenu';
import { menuAt } from './contextMenus';

/** Menus under the right button and at the menu key, of whatever has one. */
export function Menus() {
  const studio = useStudio();
  const [open, setOpen] = useState<OpenMenu | null>(null);
  useEffect(() => {
    const onMenu = (event: MouseEvent) => {
      const menu = event.target instanceof Element ? menuAt(studio, event.target) : null;
      if (!menu) return setOpen(null);
      event.preventDefault();
      setOpen({ x: event.clientX, y: event.clientY, ...menu });
    };
    document.addEventListener('contextmenu', onMenu);
    return () => document.removeEventListener('contextmenu', onMenu);
  }, [studio]);
  return open && <ContextMenu key={`${open.x} ${open.y} ${open.label}`} {...open} onClose={() => setOpen(null)} />;
}
