import { useEffect } from 'react';

const FOCUSABLE = 'a[href], button, input, select, textarea, [tabindex]:not([tabindex="-1"])';
const SCOPE = 'section, nav, aside, header, [role="dialog"], [role="region"], [role="group"], main';
/** Milliseconds after an act within which what was pressed may go. */
const SETTLED = 60;

/**
 * Keeps the focus near to where it was when the control that had it goes away, as after Remove: it moves to the next
 * control of the same part that is still there, else to the one before, else to a part around it.
 */
export function useFocusKept(): void {
  useEffect(() => {
    let last: Element | null = null;
    /** Parts around the focus, from the inside out, each with its controls in their order. */
    let around: { part: Element; controls: readonly HTMLElement[]; at: number }[] = [];
    let timer: ReturnType<typeof setTimeout> | undefined;
    const remember = () => {
      const { activeElement } = document;
      // Held keys act on one control many times.
      if (activeElement === last) return;
      last = activeElement === document.body ? null : activeElement;
      around = [];
      if (last === null) return;
      for (let part = last.parentElement?.closest(SCOPE); part; part = part.parentElement?.closest(SCOPE)) {
        const controls = [...part.querySelectorAll<HTMLElement>(FOCUSABLE)];
        around.push({ part, controls, at: Math.max(0, controls.indexOf(last as HTMLElement)) });
      }
    };
    const restore = () => {
      const { activeElement } = document;
      const isLost = last !== null && (!last.isConnected || last.matches(':disabled'));
      if (!isLost || (activeElement !== document.body && activeElement !== last)) return;
      for (const { part, controls, at } of around) {
        const stays = (one: HTMLElement) => one.isConnected && !one.matches(':disabled') && part.contains(one);
        const next = part.isConnected && (controls.slice(at).find(stays) ?? controls.slice(0, at).findLast(stays));
        if (next) return next.focus({ preventScroll: true });
      }
    };
    /** The part is looked at before an act, and the focus after it. */
    const act = () => {
      remember();
      clearTimeout(timer);
      timer = setTimeout(restore, SETTLED);
    };
    document.addEventListener('click', act, { capture: true });
    document.addEventListener('keydown', act, { capture: true });
    return () => {
      clearTimeout(timer);
      document.removeEventListener('click', act, { capture: true });
      document.removeEventListener('keydown', act, { capture: true });
    };
  }, []);
}
