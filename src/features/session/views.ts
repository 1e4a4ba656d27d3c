/** The views of a session, in the order of their tabs. Each has its component in `shell/parts.tsx`. */
export const VIEWS = [
  { id: 'timeline', name: 'Timeline' },
  { id: 'stage', name: 'Stage' },
  { id: 'routing', name: 'Routing' },
  { id: 'effect', name: 'Effect' },
  { id: 'compare', name: 'Compare' },
] as const;

export type View = (typeof VIEWS)[number]['id'];

/** The drawers beside a view. Those with a button in the head of the page have a name. */
export const DRAWERS = [
  { id: 'library', name: 'Library' },
  { id: 'modulators', name: 'Modulators' },
  { id: 'recipes', name: 'Recipes' },
  { id: 'listening', name: null },
  { id: 'effect', name: null },
  { id: 'contrast', name: null },
  { id: 'manual', name: null },
] as const;

export type DrawerName = (typeof DRAWERS)[number]['id'];
