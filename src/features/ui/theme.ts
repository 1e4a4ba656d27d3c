import { useSyncExternalStore } from 'react';

/** The look: that of the system, warm paper, or night. */
export const THEMES = ['system', 'paper', 'night'] as const;
export type Theme = (typeof THEMES)[number];

const KEY = 'kinetikon.theme';
const listeners = new Set<() => void>();

function stored(): Theme {
  const value = localStorage.getItem(KEY);
  return THEMES.find((theme) => theme === value) ?? 'system';
}

function show(theme: Theme): void {
  const dark = theme === 'night' || (theme === 'system' && matchMedia('(prefers-color-scheme: dark)').matches);
  document.documentElement.dataset.theme = dark ? 'night' : 'paper';
  document.documentElement.dataset.bsTheme = dark ? 'dark' : 'light';
}

function subscribe(listener: () => void): () => void {
  const system = matchMedia('(prefers-color-scheme: dark)');
  const onChange = () => show(stored());
  listeners.add(listener);
  system.addEventListener('change', onChange);
  show(stored());
  return () => {
    listeners.delete(listener);
    system.removeEventListener('change', onChange);
  };
}

export function setTheme(theme: Theme): void {
  localStorage.setItem(KEY, theme);
  show(theme);
  for (const listener of listeners) listener();
}

export function useTheme(): Theme {
  return useSyncExternalStore(subscribe, stored, () => 'system');
}
