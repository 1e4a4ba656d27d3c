'use client';

import { createContext, useContext, type ReactNode } from 'react';
import { useStore } from 'zustand';
import { useShallow } from 'zustand/react/shallow';
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

/** A part of the state; the component follows it. */
export function useStudioState<T>(select: (state: StudioState) => T): T {
  return useStore(useStudio().store, useShallow(select));
}
