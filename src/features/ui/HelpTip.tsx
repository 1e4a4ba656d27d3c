'use client';

import { useEffect, useState } from 'react';
import Overlay from 'react-bootstrap/Overlay';
import Tooltip from 'react-bootstrap/Tooltip';

/** Ms that the pointer or the focus stays on something before its help is shown. */
const WAIT_MS = 700;

/**
 * Shows the help of whatever has a `data-help`, when the pointer or the focus has been there for a moment, until it
 * leaves or something is pressed.
 */
export function HelpTip() {
  const [target, setTarget] = useState<HTMLElement | null>(null);
  useEffect(() => {
    let timer = 0;
    let at: HTMLElement | null = null;
    const hide = () => {
      clearTimeout(timer);
      setTarget(null);
    };
    const come = (event: Event) => {
      const on = event.target instanceof Element ? event.target : null;
      const next = on?.closest<HTMLElement>('[data-help]') ?? null;
      // Who does not see it hears it.
      if (event.type === 'focusin' && next) on!.setAttribute('aria-description', next.dataset.help!);
      if (next === at) return;
      hide();
      at = next;
      if (next) timer = window.setTimeout(() => setTarget(next), WAIT_MS);
    };
    const coming = ['pointerover', 'focusin'];
    const going = ['pointerdown', 'keydown', 'wheel'];
    for (const name of coming) document.addEventListener(name, come);
    for (const name of going) document.addEventListener(name, hide, { passive: true });
    return () => {
      hide();
      for (const name of coming) document.removeEventListener(name, come);
      for (const name of going) document.removeEventListener(name, hide);
    };
  }, []);
  return (
    <Overlay target={target} show={target !== null && target.isConnected} placement="top">
      <Tooltip className="help-tip" aria-hidden="true">
        {target?.dataset.help}
      </Tooltip>
    </Overlay>
  );
}
