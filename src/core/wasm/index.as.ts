/**
 * Loops of the core in WebAssembly with SIMD (AssemblyScript). Each does the operations of its TypeScript twin in the
 * same order and so gives the same bits; the twins say what they do and where it comes from. What they work on lies where
 * the caller says, in memory that an arena gave out.
 */
export { followBands, joinSums, shiftBands, weighBands } from './bank.as';
export {
  addHeard,
  addScaled,
  blendFloats,
  filterChain,
  filterGliding,
  filterPair,
  filterSpent,
  guardSides,
  mixScaled,
  multiply,
  narrow,
  scaleMoving,
  widen,
} from './blocks.as';
export {
  addDirect,
  addFloats,
  addProducts,
  inverseStages,
  joinSpectra,
  partSpectra,
  transformStages,
} from './convolve.as';
export { drive, driveTaps } from './drive.as';
export {
  boundedReductions,
  cutBell,
  followReductions,
  gateGains,
  scaleSides,
  shapeTransients,
  staticReductions,
  weighSides,
} from './dynamics.as';
export { fourier } from './fourier.as';
export { limit, limiterBytes, peakBytes, peakWeights, truePeak } from './limiter.as';
export { balances, decibels, gains, slideMaxima, slidingPeaks } from './levels.as';
export {
  addPowers,
  blendBand,
  clearSides,
  copySides,
  guardOutputs,
  holdSides,
  scaleFloatsMoving,
  takeMiddle,
  holdFloats,
  isFinite,
  levelFloats,
  mixFloats,
  peakFloats,
  putSides,
  scaleFloats,
  splitRing,
  takeSides,
  toDoubles,
  toFloats,
} from './mixing.as';
export {
  filterNetwork,
  gatherNetwork,
  mixNetwork,
  readNetwork,
  settleNetwork,
  shiftLine,
  writeNetwork,
} from './network.as';
export { polyphase } from './resample.as';
export { addTaps, dullLayers, feedSides, passAll } from './room.as';
export { addModulated, addNoise, addWave, spendSides } from './waves.as';
export { putGuarded, putHeld, putRound, readRing, readRingTwice, readWhole, setSincTable } from './ring.as';

/** First address of memory that the module itself does not use. */
export function heapBase(): usize {
  return __heap_base;
}
