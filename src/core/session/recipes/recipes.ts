import { bothOrders } from './bothOrders';
import { circling } from './circling';
import { lastWordThrows } from './lastWordThrows';
import type { Recipe } from './recipe';
import { roomsBySection } from './roomsBySection';
import { cleanBrightRoom, pushedForward } from './shortRooms';
import { sinkingEchoes } from './sinkingEchoes';
import { swellIntoWord } from './swellIntoWord';
import { droneThatMoves, harmoniesInKey, speakingInstrument, vocodedLayer } from './voices';
import { depthFromMono, doubledTake, splitSides, walkingTremolo } from './widths';

/** Every recipe, in the order in which they are offered. */
export const RECIPES: readonly Recipe[] = [
  sinkingEchoes,
  lastWordThrows,
  swellIntoWord,
  roomsBySection,
  pushedForward,
  cleanBrightRoom,
  bothOrders,
  circling,
  harmoniesInKey,
  vocodedLayer,
  speakingInstrument,
  droneThatMoves,
  splitSides,
  doubledTake,
  depthFromMono,
  walkingTremolo,
];
