'use client';

import { createContext, useContext, useRef, type ReactNode } from 'react';
import { useStore } from 'zustand';
import type { StudioState } from './state';
import type { Studio } from './studio';

const Context = createContext<Studio | null>(null);

export function StudioProvider({ studio, children }: { studio: Studio; children: ReactNode }) {
  return <Context value={studio}>{children}</Context>;
}

export function useStudio(): Studio {
  const studio = useContext(Context);
  if (!studio) throw new Error('useStudio needs a StudioProvider above it');
  return studio;
}

/** True for values that are the same, and for objects and lists that hold the same. */
function holdSame(one: unknown, other: unknown): boolean {
  if (Object.is(one, other)) return true;
  if (typeof one !== 'object' || typeof other !== 'object' || one === null || other === null) return false;
  const keys = Object.keys(one);
  if (keys.length !== Object.keys(other).length || Array.isArray(one) !== Array.isArray(other)) return false;
  return keys.every(
    (key) => key in other && Object.is((one as Record<string, unknown>)[key], (other as Record<string, unknown>)[key]),
  );
}

/**
 * A part of the state; the component follows it. Every change of the state asks all parts that are followed, hundreds of
 * them, so that they are compared without making anything new.
 */
export function useStudioState<T>(select: (state: StudioState) => T): T {
  const last = useRef<{ readonly part: T } | null>(null);
  return useStore(useStudio().store, (state) => {
    const part = select(state);
    if (!last.current || !holdSame(last.current.part, part)) last.current = { part };
    return last.current.part;
  });
}
