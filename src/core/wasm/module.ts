import { MODULE } from './module.generated';

/** What `index.as.ts` exports: functions that work at byte addresses of the memory, and where their tables are. */
export interface WasmKernels {
  readonly heapBase: () => number;
  readonly addHeard: (
    left: number,
    right: number,
    outLeft: number,
    outRight: number,
    gainLeft: number,
    gainRight: number,
    gainsLeft: number,
    gainsRight: number,
    lift: number,
    sides: number,
    frames: number,
  ) => void;
  readonly blendFloats: (dry: number, wet: number, dryGains: number, wetGains: number, frames: number) => void;
  readonly guardSides: (left: number, right: number, frames: number) => void;
  readonly scaleMoving: (
    out: number,
    block: number,
    gain: number,
    step: number,
    offset: number,
    frames: number,
  ) => void;
  readonly widen: (
    left: number,
    right: number,
    outLeft: number,
    outRight: number,
    middle: number,
    side: number,
    frames: number,
  ) => void;
  readonly addScaled: (out: number, block: number, gain: number, gains: number, frames: number) => void;
  readonly mixScaled: (
    out: number,
    first: number,
    firstGain: number,
    gains: number,
    second: number,
    gain: number,
    frames: number,
  ) => void;
  readonly multiply: (out: number, first: number, second: number, frames: number, add: boolean) => void;
  readonly fourier: (re: number, im: number, size: number, twiddles: number, pairs: number, exchanges: number) => void;
  readonly narrow: (state: number, left: number, right: number, frames: number) => void;
  readonly filterChain: (
    states: number,
    count: number,
    room: number,
    left: number,
    right: number,
    frames: number,
  ) => void;
  readonly filterGliding: (state: number, steps: number, left: number, right: number, frames: number) => void;
  readonly filterSpent: (
    state: number,
    outLeft: number,
    outRight: number,
    left: number,
    right: number,
    gain: number,
    step: number,
    offset: number,
    frames: number,
  ) => void;
  readonly filterPair: (state: number, left: number, right: number, frames: number) => void;
  readonly staticReductions: (
    levels: number,
    thresholds: number,
    slopes: number,
    knees: number,
    out: number,
    frames: number,
  ) => void;
  readonly followReductions: (state: number, block: number, attack: number, release: number, frames: number) => void;
  readonly weighSides: (
    left: number,
    right: number,
    gains: number,
    makeups: number,
    mixes: number,
    frames: number,
  ) => void;
  readonly scaleSides: (left: number, right: number, gains: number, frames: number) => void;
  readonly gateGains: (
    state: number,
    block: number,
    floors: number,
    opensAt: number,
    closesAt: number,
    hold: number,
    openingStep: number,
    closingFactor: number,
    frames: number,
  ) => void;
  readonly shapeTransients: (
    state: number,
    factors: number,
    block: number,
    attacks: number,
    sustains: number,
    least: number,
    most: number,
    frames: number,
  ) => void;
  readonly boundedReductions: (block: number, thresholds: number, amounts: number, frames: number) => void;
  readonly cutBell: (
    state: number,
    left: number,
    right: number,
    gains: number,
    g: number,
    inverseQ: number,
    frames: number,
  ) => void;
  readonly slideMaxima: (state: number, block: number, frames: number) => void;
  readonly slidingPeaks: (state: number, left: number, right: number, out: number, frames: number) => void;
  readonly decibels: (block: number, frames: number, floor: number, floorDb: number) => void;
  readonly gains: (block: number, frames: number) => void;
  readonly balances: (pans: number, left: number, right: number, frames: number) => void;
  readonly mixFloats: (
    outLeft: number,
    outRight: number,
    left: number,
    right: number,
    gain: number,
    gains: number,
    frames: number,
  ) => void;
  readonly scaleFloats: (left: number, right: number, gainLeft: number, gainRight: number, frames: number) => void;
  readonly peakFloats: (left: number, right: number, out: number, frames: number) => void;
  readonly addPowers: (left: number, right: number, out: number, frames: number) => void;
  readonly isFinite: (left: number, right: number, frames: number) => number;
  readonly levelFloats: (
    left: number,
    right: number,
    first: number,
    second: number,
    sideLeft: number,
    sideRight: number,
    frames: number,
  ) => void;
  readonly peakWeights: () => number;
  readonly limiterBytes: () => number;
  readonly peakBytes: () => number;
  readonly truePeak: (line: number, block: number, frames: number, least: number) => number;
  readonly limit: (state: number, left: number, right: number, ceilings: number, floor: number, frames: number) => void;
  readonly holdFloats: (
    ring: number,
    size: number,
    index: number,
    delay: number,
    block: number,
    out: number,
    frames: number,
  ) => void;
  readonly polyphase: (
    input: number,
    origin: number,
    taps: number,
    up: number,
    down: number,
    side: number,
    out: number,
    from: number,
    frames: number,
  ) => void;
  readonly driveTaps: () => number;
  readonly drive: (
    state: number,
    block: number,
    frames: number,
    rate: number,
    firstCurve: number,
    secondCurve: number,
    firstGains: number,
    secondGains: number,
    amounts: number,
    offsetPole: number,
  ) => void;
  readonly readNetwork: (
    rings: number,
    stride: number,
    size: number,
    index: number,
    pairs: number,
    delays: number,
    offset: number,
    fading: number,
    fade: number,
    fadeStep: number,
    frames: number,
    blocks: number,
    scratch: number,
  ) => void;
  readonly shiftLine: (
    ring: number,
    size: number,
    index: number,
    taps: number,
    offset: number,
    amount: number,
    amountStep: number,
    frames: number,
    block: number,
    scratch: number,
  ) => void;
  readonly filterNetwork: (
    blocks: number,
    pairs: number,
    table: number,
    bands: number,
    order: number,
    used: number,
    moving: boolean,
    frames: number,
  ) => void;
  readonly settleNetwork: (table: number, pairs: number, bands: number) => void;
  readonly mixNetwork: (blocks: number, pairs: number, turns: number, offset: number, frames: number) => void;
  readonly writeNetwork: (
    rings: number,
    stride: number,
    size: number,
    index: number,
    pairs: number,
    blocks: number,
    gain: number,
    left: number,
    right: number,
    entries: number,
    frames: number,
  ) => void;
  readonly gatherNetwork: (
    blocks: number,
    pairs: number,
    exits: number,
    left: number,
    right: number,
    frames: number,
  ) => void;
  readonly addTaps: (
    ring: number,
    size: number,
    index: number,
    taps: number,
    count: number,
    left: number,
    right: number,
    frames: number,
  ) => void;
  readonly feedSides: (
    near: number,
    far: number,
    size: number,
    at: number,
    again: number,
    part: number,
    left: number,
    right: number,
    frames: number,
  ) => void;
  readonly dullLayers: (
    states: number,
    share: number,
    dull: number,
    sums: number,
    bytes: number,
    left: number,
    right: number,
    frames: number,
  ) => void;
  readonly passAll: (
    ring: number,
    mask: number,
    at: number,
    length: number,
    next: number,
    offset: number,
    fade: number,
    fadeStep: number,
    gain: number,
    gainStep: number,
    block: number,
    frames: number,
  ) => void;
  readonly transformStages: (
    re: number,
    im: number,
    size: number,
    twiddles: number,
    first: number,
    last: number,
  ) => void;
  readonly inverseStages: (re: number, im: number, size: number, twiddles: number, first: number, last: number) => void;
  readonly partSpectra: (re: number, im: number, size: number, out: number) => void;
  readonly joinSpectra: (left: number, right: number, size: number, re: number, im: number) => void;
  readonly addProducts: (
    sum: number,
    slots: number,
    places: number,
    newest: number,
    side: number,
    ago: number,
    spectra: number,
    parts: number,
    size: number,
  ) => void;
  readonly followBands: (
    input: number,
    coefficients: number,
    states: number,
    rates: number,
    levels: number,
    powers: number,
    measures: boolean,
    quads: number,
    sections: number,
    frames: number,
    settles: boolean,
  ) => void;
  readonly weighBands: (
    left: number,
    right: number,
    coefficients: number,
    leftStates: number,
    rightStates: number,
    rates: number,
    levels: number,
    leftSums: number,
    rightSums: number,
    powers: number,
    measures: boolean,
    quads: number,
    sections: number,
    frames: number,
    settles: boolean,
  ) => void;
  readonly shiftBands: (
    levels: number,
    shifted: number,
    bands: number,
    places: number,
    offset: number,
    frames: number,
  ) => void;
  readonly joinSums: (sums: number, out: number, gain: number, frames: number) => void;
  readonly addWave: (
    state: number,
    near: number,
    far: number,
    blend: number,
    offset: number,
    frames: number,
    left: number,
    right: number,
  ) => void;
  readonly addModulated: (
    state: number,
    sine: number,
    ratio: number,
    offset: number,
    frames: number,
    left: number,
    right: number,
  ) => void;
  readonly addNoise: (
    state: number,
    counter: number,
    offset: number,
    frames: number,
    left: number,
    right: number,
  ) => void;
  readonly spendSides: (
    outLeft: number,
    outRight: number,
    left: number,
    right: number,
    gain: number,
    step: number,
    offset: number,
    frames: number,
  ) => void;
  readonly addFloats: (out: number, block: number, frames: number) => void;
  readonly holdSides: (
    leftRing: number,
    rightRing: number,
    size: number,
    index: number,
    delay: number,
    left: number,
    right: number,
    outLeft: number,
    outRight: number,
    frames: number,
  ) => void;
  readonly clearSides: (left: number, right: number, frames: number) => void;
  readonly copySides: (outLeft: number, outRight: number, left: number, right: number, frames: number) => void;
  readonly splitRing: (
    input: number,
    output: number,
    band: number,
    rest: number,
    block: number,
    frames: number,
  ) => void;
  readonly blendBand: (
    out: number,
    band: number,
    rest: number,
    wet: number,
    dryGains: number,
    wetGains: number,
    frames: number,
  ) => void;
  readonly takeMiddle: (out: number, left: number, right: number, frames: number) => void;
  readonly guardOutputs: (left: number, right: number, frames: number) => void;
  readonly scaleFloatsMoving: (
    left: number,
    right: number,
    gainLeft: number,
    stepLeft: number,
    gainRight: number,
    stepRight: number,
    offset: number,
    frames: number,
  ) => void;
  readonly takeSides: (
    outLeft: number,
    outRight: number,
    left: number,
    right: number,
    gain: number,
    frames: number,
  ) => void;
  readonly putSides: (
    outLeft: number,
    outRight: number,
    left: number,
    right: number,
    gain: number,
    frames: number,
  ) => void;
  readonly toFloats: (out: number, block: number, frames: number) => void;
  readonly toDoubles: (out: number, block: number, frames: number) => void;
  readonly addDirect: (input: number, filter: number, taps: number, out: number, frames: number) => void;
  readonly setSincTable: (at: number) => void;
  readonly readRing: (
    ring: number,
    size: number,
    index: number,
    from: number,
    step: number,
    offset: number,
    least: number,
    frames: number,
    out: number,
  ) => void;
  readonly readRingTwice: (
    ring: number,
    other: number,
    size: number,
    index: number,
    from: number,
    step: number,
    offset: number,
    least: number,
    frames: number,
    out: number,
    otherOut: number,
  ) => void;
  readonly readWhole: (ring: number, size: number, index: number, delay: number, frames: number, out: number) => void;
  readonly putGuarded: (ring: number, size: number, index: number, block: number, frames: number) => void;
  readonly putRound: (
    ring: number,
    size: number,
    index: number,
    from: number,
    step: number,
    offset: number,
    least: number,
    frames: number,
    block: number,
    gains: number,
  ) => void;
  readonly putHeld: (ring: number, size: number, index: number, block: number, frames: number) => void;
}

export interface Wasm {
  readonly kernels: WasmKernels;
  readonly buffer: ArrayBuffer;
}

const PAGE = 65536;
/** Memory is one piece that never grows, of which a machine lends only what is written to: in MiB, as much as it gives. */
const SIZES_MB = [2048, 1024, 512, 256];

/** The bytes of the module, from base64: the audio thread has no decoder of its own. */
function moduleBytes(): Uint8Array<ArrayBuffer> {
  const letters = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';
  const values = new Uint8Array(128);
  for (let i = 0; i < letters.length; i++) values[letters.charCodeAt(i)] = i;
  const padding = MODULE.endsWith('==') ? 2 : MODULE.endsWith('=') ? 1 : 0;
  const bytes = new Uint8Array((MODULE.length / 4) * 3 - padding);
  for (let from = 0, to = 0; from < MODULE.length; from += 4) {
    let word = 0;
    for (let i = 0; i < 4; i++) word = (word << 6) | values[MODULE.charCodeAt(from + i)]!;
    for (let shift = 16; shift >= 0 && to < bytes.length; shift -= 8) bytes[to++] = (word >> shift) & 255;
  }
  return bytes;
}

/** Whether this machine runs the core: WebAssembly with SIMD. */
export function runsWasm(): boolean {
  return typeof WebAssembly === 'object' && WebAssembly.validate(moduleBytes());
}

function newMemory(): WebAssembly.Memory {
  for (const size of SIZES_MB) {
    const pages = (size * 1024 * 1024) / PAGE;
    try {
      return new WebAssembly.Memory({ initial: pages, maximum: pages });
    } catch (error) {
      if (size === SIZES_MB.at(-1)) throw error;
    }
  }
  throw new Error('No memory was asked for');
}

let instance: Wasm | null = null;

/** The one instance of this thread, made on first use. */
export function wasm(): Wasm {
  if (!instance) {
    const memory = newMemory();
    const made = new WebAssembly.Instance(new WebAssembly.Module(moduleBytes()), { env: { memory } });
    instance = { kernels: made.exports as unknown as WasmKernels, buffer: memory.buffer };
  }
  return instance;
}
