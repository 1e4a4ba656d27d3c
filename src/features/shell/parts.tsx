import type { ComponentType } from 'react';
import type { DrawerName, View } from '@/features/session/views';
import { Timeline } from '@/features/timeline/Timeline';
import { lazyPart } from '@/features/ui/lazyPart';

// Parts not needed for the first sound are fetched once the page is idle.
const StageView = lazyPart('The stage', () => import('@/features/stage/StageView').then((part) => part.StageView));
const EffectView = lazyPart('The effect', () =>
  import('@/features/effects/EffectView').then((part) => part.EffectView),
);
const RoutingView = lazyPart('The routing', () =>
  import('@/features/routing/RoutingView').then((part) => part.RoutingView),
);
const CompareView = lazyPart('The comparison', () =>
  import('@/features/compare/CompareView').then((part) => part.CompareView),
);
export const BounceDialog = lazyPart('The bounce', () =>
  import('@/features/bounce/BounceDialog').then((part) => part.BounceDialog),
);
export const ArrivalDialog = lazyPart('The arrival', () =>
  import('@/features/timeline/ArrivalDialog').then((part) => part.ArrivalDialog),
);
export const NoteEditor = lazyPart('The notes', () =>
  import('@/features/notes/NoteEditor').then((part) => part.NoteEditor),
);
export const Keyboard = lazyPart('The keyboard', () =>
  import('@/features/notes/Keyboard').then((part) => part.Keyboard),
);
export const KeySheet = lazyPart('The list of keys', () =>
  import('@/features/help/KeySheet').then((part) => part.KeySheet),
);
export const CommandPalette = lazyPart('The search', () =>
  import('@/features/help/CommandPalette').then((part) => part.CommandPalette),
);

export const DRAWER_PARTS: Record<DrawerName, ComponentType> = {
  library: lazyPart('The library', () => import('@/features/library/LibraryDrawer').then((part) => part.LibraryDrawer)),
  modulators: lazyPart('The modulators', () =>
    import('@/features/modulators/ModulatorsDrawer').then((part) => part.ModulatorsDrawer),
  ),
  recipes: lazyPart('The recipes', () => import('@/features/recipes/RecipesDrawer').then((part) => part.RecipesDrawer)),
  listening: lazyPart('The listening places', () =>
    import('@/features/transport/ListeningDrawer').then((part) => part.ListeningDrawer),
  ),
  effect: lazyPart('The page of the effect', () =>
    import('@/features/effects/EffectPage').then((part) => part.EffectPage),
  ),
  contrast: lazyPart('The contrast', () =>
    import('@/features/controls/ContrastDrawer').then((part) => part.ContrastDrawer),
  ),
  manual: lazyPart('The manual', () => import('@/features/help/ManualDrawer').then((part) => part.ManualDrawer)),
};

export const VIEW_PARTS: Record<View, ComponentType> = {
  timeline: Timeline,
  stage: StageView,
  routing: RoutingView,
  effect: EffectView,
  compare: CompareView,
};
