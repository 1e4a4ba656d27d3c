import { lastWordThrows } from './lastWordThrows';
import type { Recipe } from './recipe';
import { roomsBySection } from './roomsBySection';
import { cleanBrightRoom, pushedForward } from './shortRooms';
import { sinkingEchoes } from './sinkingEchoes';

/** Every recipe, in the order in which they are offered. */
export const RECIPES: readonly Recipe[] = [
  sinkingEchoes,
  lastWordThrows,
  roomsBySection,
  pushedForward,
  cleanBrightRoom,
];
