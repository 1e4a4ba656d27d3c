import { useState } from 'react';

const KEY = 'kinetikon.folds';

function stored(): Record<string, boolean> {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? '{}') as Record<string, boolean>;
  } catch {
    return {};
  }
}

/** Parts of the screen that were opened or folded, by name, as this browser remembers them. */
export function useFolds(): readonly [
  opened: Readonly<Record<string, boolean>>,
  set: (name: string, isOpen: boolean) => void,
] {
  const [opened, setOpened] = useState(stored);
  const set = (name: string, isOpen: boolean) => {
    const next = { ...stored(), [name]: isOpen };
    localStorage.setItem(KEY, JSON.stringify(next));
    setOpened(next);
  };
  return [opened, set];
}
