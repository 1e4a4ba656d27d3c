import { boxRoom } from './boxRoom';
import { outdoor } from './outdoor';
import { pipe } from './pipe';
import { plate } from './plate';
import type { Simulator } from './simulator';
import { smallSpeaker } from './smallSpeaker';
import { spring } from './spring';

export const SIMULATORS: readonly Simulator[] = [boxRoom, plate, spring, pipe, smallSpeaker, outdoor];

/** Undefined for an id that there is not. */
export function simulatorById(id: string): Simulator | undefined {
  return SIMULATORS.find((one) => one.id === id);
}
