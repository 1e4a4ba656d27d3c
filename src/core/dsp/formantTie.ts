import { clamp } from '../math/clamp';
import { pow } from '../math/elementary';
import { smoothstep } from '../math/smoothstep';

/** Share of the power that one partial holds where formants begin to follow the pitch, and from which on they do wholly. */
const FREE_SHARE = 0.85;
const TIED_SHARE = 0.9;

/** Weight of the pitch ratio in the formant ratio, 0 to 1, by the power share of the strongest partial: one alone has no formants. */
export const formantTie = (share: number): number =>
  smoothstep(clamp(0, 1, (share - FREE_SHARE) / (TIED_SHARE - FREE_SHARE)));

/**
 * Ratio of formants that follow the pitch as far as they are tied to it.
 * @param formants ratio that they have while they do not follow
 * @param ratio of the pitch
 */
export const tiedFormants = (formants: number, ratio: number, tie: number): number =>
  pow(formants, 1 - tie) * pow(ratio, tie);
