// Stereo blocks in single precision: mixing, levels and peaks, worked out in double precision as JavaScript does.

@inline
function pair(at: usize): v128 {
  return f64x2.promote_low_f32x4(v128.load64_zero(at));
}

@inline
function putPair(at: usize, x: v128): void {
  v128.store64_lane(at, f32x4.demote_f64x2_zero(x), 0);
}

@inline
function mixPair(out: usize, block: usize, gain: v128): void {
  putPair(out, f64x2.add(pair(out), f64x2.mul(pair(block), gain)));
}

@inline
function mixOne(out: usize, block: usize, gain: f64): void {
  store<f32>(out, ((load<f32>(out) as f64) + (load<f32>(block) as f64) * gain) as f32);
}

/** Adds a block to another at a gain, or at one for each frame where `gains` is not 0. */
export function mixFloats(
  outLeft: usize,
  outRight: usize,
  left: usize,
  right: usize,
  gain: f64,
  gains: usize,
  frames: i32,
): void {
  let factor = f64x2.splat(gain);
  const whole = frames & ~1;
  for (let i = 0; i < whole; i += 2) {
    const at = (i as usize) << 2;
    if (gains) factor = v128.load(gains + (at << 1));
    mixPair(outLeft + at, left + at, factor);
    mixPair(outRight + at, right + at, factor);
  }
  if (whole == frames) return;
  const at = (whole as usize) << 2;
  const last = gains ? load<f64>(gains + (at << 1)) : gain;
  mixOne(outLeft + at, left + at, last);
  mixOne(outRight + at, right + at, last);
}

/** Takes each side of a block to its own level, in place. */
export function scaleFloats(left: usize, right: usize, gainLeft: f64, gainRight: f64, frames: i32): void {
  const first = f64x2.splat(gainLeft);
  const second = f64x2.splat(gainRight);
  const whole = frames & ~1;
  for (let i = 0; i < whole; i += 2) {
    const at = (i as usize) << 2;
    putPair(left + at, f64x2.mul(pair(left + at), first));
    putPair(right + at, f64x2.mul(pair(right + at), second));
  }
  if (whole == frames) return;
  const at = (whole as usize) << 2;
  store<f32>(left + at, ((load<f32>(left + at) as f64) * gainLeft) as f32);
  store<f32>(right + at, ((load<f32>(right + at) as f64) * gainRight) as f32);
}

@inline
function peakOf(block: usize, frames: i32): f32 {
  let most = f32x4.splat(0);
  const whole = frames & ~3;
  for (let i = 0; i < whole; i += 4) most = f32x4.pmax(most, f32x4.abs(v128.load(block + ((i as usize) << 2))));
  let peak = max(
    max(f32x4.extract_lane(most, 0), f32x4.extract_lane(most, 1)),
    max(f32x4.extract_lane(most, 2), f32x4.extract_lane(most, 3)),
  );
  for (let i = whole; i < frames; i++) peak = max(peak, abs(load<f32>(block + ((i as usize) << 2))));
  return peak;
}

/** The largest magnitudes of both sides, as doubles at `out`. */
export function peakFloats(left: usize, right: usize, out: usize, frames: i32): void {
  store<f64>(out, peakOf(left, frames) as f64);
  store<f64>(out, peakOf(right, frames) as f64, 8);
}

/** The powers of left, of right and of their sum over a block, added to the three doubles at `out`. */
export function addPowers(left: usize, right: usize, out: usize, frames: i32): void {
  let ofLeft = f64x2.splat(0);
  let ofRight = f64x2.splat(0);
  let ofSum = f64x2.splat(0);
  const whole = frames & ~1;
  for (let i = 0; i < whole; i += 2) {
    const at = (i as usize) << 2;
    const l = pair(left + at);
    const r = pair(right + at);
    const sum = f64x2.add(l, r);
    ofLeft = f64x2.add(ofLeft, f64x2.mul(l, l));
    ofRight = f64x2.add(ofRight, f64x2.mul(r, r));
    ofSum = f64x2.add(ofSum, f64x2.mul(sum, sum));
  }
  let l = f64x2.extract_lane(ofLeft, 0) + f64x2.extract_lane(ofLeft, 1);
  let r = f64x2.extract_lane(ofRight, 0) + f64x2.extract_lane(ofRight, 1);
  let sum = f64x2.extract_lane(ofSum, 0) + f64x2.extract_lane(ofSum, 1);
  if (whole < frames) {
    const at = (whole as usize) << 2;
    const lastLeft = load<f32>(left + at) as f64;
    const lastRight = load<f32>(right + at) as f64;
    l += lastLeft * lastLeft;
    r += lastRight * lastRight;
    sum += (lastLeft + lastRight) * (lastLeft + lastRight);
  }
  store<f64>(out, load<f64>(out) + l);
  store<f64>(out, load<f64>(out, 8) + r, 8);
  store<f64>(out, load<f64>(out, 16) + sum, 16);
}

/** True if a block holds only finite numbers: 0 times any other is not 0. */
export function isFinite(left: usize, right: usize, frames: i32): bool {
  const nothing = f32x4.splat(0);
  let sum = nothing;
  const whole = frames & ~3;
  for (let i = 0; i < whole; i += 4) {
    const at = (i as usize) << 2;
    sum = f32x4.add(sum, f32x4.mul(v128.load(left + at), nothing));
    sum = f32x4.add(sum, f32x4.mul(v128.load(right + at), nothing));
  }
  let rest: f32 = 0;
  for (let i = whole; i < frames; i++) {
    const at = (i as usize) << 2;
    rest += load<f32>(left + at) * 0 + load<f32>(right + at) * 0;
  }
  return rest == 0 && !v128.any_true(f32x4.ne(sum, nothing));
}

/** Takes each side of a block to the product of two levels of each frame and one of its own. */
export function levelFloats(
  left: usize,
  right: usize,
  first: usize,
  second: usize,
  sideLeft: usize,
  sideRight: usize,
  frames: i32,
): void {
  for (let i = 0; i < frames; i++) {
    const at = (i as usize) << 2;
    const wide = at << 1;
    const level = load<f64>(first + wide) * load<f64>(second + wide);
    store<f32>(left + at, ((load<f32>(left + at) as f64) * level * load<f64>(sideLeft + wide)) as f32);
    store<f32>(right + at, ((load<f32>(right + at) as f64) * level * load<f64>(sideRight + wide)) as f32);
  }
}

/** A block is done sooner so than by `memory.copy`. */
@inline
function copyFloats(to: usize, from: usize, count: i32): void {
  let i = 0;
  for (; i + 4 <= count; i += 4, to += 16, from += 16) v128.store(to, v128.load(from));
  for (; i < count; i++, to += 4, from += 4) store<f32>(to, load<f32>(from));
}

/** As `holdFloats`, of both sides; `left` is 0 for silence. */
export function holdSides(
  leftRing: usize,
  rightRing: usize,
  size: i32,
  index: i32,
  delay: i32,
  left: usize,
  right: usize,
  outLeft: usize,
  outRight: usize,
  frames: i32,
): void {
  holdFloats(leftRing, size, index, delay, left, outLeft, frames);
  holdFloats(rightRing, size, index, delay, right, outRight, frames);
}

/** Copies both sides of a block. */
export function copySides(outLeft: usize, outRight: usize, left: usize, right: usize, frames: i32): void {
  const bytes = (frames as usize) << 2;
  memory.copy(outLeft, left, bytes);
  memory.copy(outRight, right, bytes);
}

/** Makes both sides of a block silent. */
export function clearSides(left: usize, right: usize, frames: i32): void {
  const nothing = f32x4.splat(0);
  let i = 0;
  for (; i + 4 <= frames; i += 4, left += 16, right += 16) {
    v128.store(left, nothing);
    v128.store(right, nothing);
  }
  for (; i < frames; i++, left += 4, right += 4) {
    store<f32>(left, 0);
    store<f32>(right, 0);
  }
}

/**
 * Writes a block into a ring of floats and reads what went into it some frames ago.
 * @param index where the first frame goes
 * @param delay up to `size` less `frames`
 * @param block what goes in, 0 for silence; it may be `out`
 */
export function holdFloats(
  ring: usize,
  size: i32,
  index: i32,
  delay: i32,
  block: usize,
  out: usize,
  frames: i32,
): void {
  const first = min(frames, size - index);
  const to = ring + ((index as usize) << 2);
  if (block) {
    copyFloats(to, block, first);
    if (first < frames) copyFloats(ring, block + ((first as usize) << 2), frames - first);
  } else {
    memory.fill(to, 0, (first as usize) << 2);
    if (first < frames) memory.fill(ring, 0, ((frames - first) as usize) << 2);
  }
  const from = index - delay + (index < delay ? size : 0);
  const near = min(frames, size - from);
  copyFloats(out, ring + ((from as usize) << 2), near);
  if (near < frames) copyFloats(out + ((near as usize) << 2), ring, frames - near);
}

@inline
function widened(out: usize, block: usize, gain: f64, frames: i32): void {
  const factor = f64x2.splat(gain);
  let i = 0;
  for (; i + 4 <= frames; i += 4, out += 32, block += 16) {
    const four = v128.load(block);
    v128.store(out, f64x2.mul(f64x2.promote_low_f32x4(four), factor));
    v128.store(out, f64x2.mul(f64x2.promote_low_f32x4(v128.shuffle<f32>(four, four, 2, 3, 2, 3)), factor), 16);
  }
  for (; i < frames; i++, out += 8, block += 4) store<f64>(out, (load<f32>(block) as f64) * gain);
}

@inline
function narrowed(out: usize, block: usize, gain: f64, frames: i32): void {
  const factor = f64x2.splat(gain);
  let i = 0;
  for (; i + 4 <= frames; i += 4, out += 16, block += 32) {
    const low = f32x4.demote_f64x2_zero(f64x2.mul(v128.load(block), factor));
    const high = f32x4.demote_f64x2_zero(f64x2.mul(v128.load(block, 16), factor));
    v128.store(out, v128.shuffle<f32>(low, high, 0, 1, 4, 5));
  }
  for (; i < frames; i++, out += 4, block += 8) store<f32>(out, (load<f64>(block) * gain) as f32);
}

/** Floats as doubles. */
export function toDoubles(out: usize, block: usize, frames: i32): void {
  widened(out, block, 1, frames);
}

/** Doubles as floats. */
export function toFloats(out: usize, block: usize, frames: i32): void {
  narrowed(out, block, 1, frames);
}

/** Both sides of a block of floats as doubles, at a gain. */
export function takeSides(outLeft: usize, outRight: usize, left: usize, right: usize, gain: f64, frames: i32): void {
  widened(outLeft, left, gain, frames);
  widened(outRight, right, gain, frames);
}

/** Both sides of a block of doubles as floats, at a gain. */
export function putSides(outLeft: usize, outRight: usize, left: usize, right: usize, gain: f64, frames: i32): void {
  narrowed(outLeft, left, gain, frames);
  narrowed(outRight, right, gain, frames);
}

/** Half of both sides' sum, as doubles. */
export function takeMiddle(out: usize, left: usize, right: usize, frames: i32): void {
  const half = f64x2.splat(0.5);
  let i = 0;
  for (; i + 2 <= frames; i += 2, out += 16, left += 8, right += 8) {
    v128.store(out, f64x2.mul(f64x2.add(pair(left), pair(right)), half));
  }
  if (i < frames) store<f64>(out, ((load<f32>(left) as f64) + (load<f32>(right) as f64)) * 0.5);
}

const OUTPUT_KNEE: f64 = 1.7;
const OUTPUT_SPAN: f64 = 1.98 - 1.7;

/** As `guardOutput`. */
@inline
function guardedOutput(x: f64): f64 {
  const magnitude = abs(x);
  if (magnitude <= OUTPUT_KNEE) return x;
  const over = (magnitude - OUTPUT_KNEE) / OUTPUT_SPAN;
  const bent = OUTPUT_KNEE + (OUTPUT_SPAN * over) / (1 + over);
  return x < 0 ? -bent : bent;
}

@inline
function guardSide(block: usize, frames: i32): void {
  const knee = f32x4.splat(OUTPUT_KNEE as f32);
  let i = 0;
  for (; i + 4 <= frames; i += 4, block += 16) {
    if (!v128.any_true(f32x4.ge(f32x4.abs(v128.load(block)), knee))) continue;
    for (let at: usize = 0; at < 16; at += 4) store<f32>(block + at, guardedOutput(load<f32>(block + at)) as f32);
  }
  for (; i < frames; i++, block += 4) store<f32>(block, guardedOutput(load<f32>(block)) as f32);
}

/** Guards both sides of a block in place, each sample as `guardOutput`. */
export function guardOutputs(left: usize, right: usize, frames: i32): void {
  guardSide(left, frames);
  guardSide(right, frames);
}

/** Takes both sides to levels that move by a step with each frame, the first of which is `offset` frames from where they were told. */
export function scaleFloatsMoving(
  left: usize,
  right: usize,
  gainLeft: f64,
  stepLeft: f64,
  gainRight: f64,
  stepRight: f64,
  offset: i32,
  frames: i32,
): void {
  for (let i = 0; i < frames; i++, left += 4, right += 4) {
    const n = (offset + i) as f64;
    store<f32>(left, ((load<f32>(left) as f64) * (gainLeft + stepLeft * n)) as f32);
    store<f32>(right, ((load<f32>(right) as f64) * (gainRight + stepRight * n)) as f32);
  }
}

/**
 * One side of a stretch of `BandSplit.process`: what has been summed up of the band, and what is left of the sound that
 * went in then, whose places take up what comes in and nothing.
 */
export function splitRing(input: usize, output: usize, band: usize, rest: usize, block: usize, frames: i32): void {
  const nothing = f64x2.splat(0);
  let i = 0;
  for (; i + 2 <= frames; i += 2, input += 16, output += 16, band += 16, rest += 16, block += 8) {
    const taken = v128.load(output);
    v128.store(band, taken);
    v128.store(rest, f64x2.sub(v128.load(input), taken));
    v128.store(input, pair(block));
    v128.store(output, nothing);
  }
  if (i == frames) return;
  const taken = load<f64>(output);
  store<f64>(band, taken);
  store<f64>(rest, load<f64>(input) - taken);
  store<f64>(input, load<f32>(block) as f64);
  store<f64>(output, 0);
}

/**
 * One side of a band mixed with what was made of it, and its rest. What single precision leaves out of the band stays with
 * the rest: unmixed, both make the very input.
 * @param out floats
 */
export function blendBand(
  out: usize,
  band: usize,
  rest: usize,
  wet: usize,
  dryGains: usize,
  wetGains: usize,
  frames: i32,
): void {
  for (let i = 0; i < frames; i++, out += 4) {
    const at = (i as usize) << 3;
    const whole = load<f64>(band + at);
    const dry = whole as f32 as f64;
    const mixed = (dry * load<f64>(dryGains + at) + load<f64>(wet + at) * load<f64>(wetGains + at)) as f32;
    store<f32>(out, ((mixed as f64) + (load<f64>(rest + at) + whole - dry)) as f32);
  }
}
