// Gains of a block from levels in decibels, in double precision, and their use on both sides.
import { settled } from './blocks.as';

/** Reductions nearer to nothing than this are none. */
const NOTHING: f64 = -1e-7;

/** As `staticReduction`, of a block of levels; threshold, slope and knee of each frame. */
export function staticReductions(
  levels: usize,
  thresholds: usize,
  slopes: usize,
  knees: usize,
  out: usize,
  frames: i32,
): void {
  const two = f64x2.splat(2);
  const nothing = f64x2.splat(0);
  const bytes = (frames as usize) << 3;
  for (let at: usize = 0; at < bytes; at += 16) {
    const over = f64x2.sub(v128.load(levels + at), v128.load(thresholds + at));
    const knee = v128.load(knees + at);
    const slope = f64x2.neg(v128.load(slopes + at));
    const double = f64x2.mul(two, over);
    const into = f64x2.add(over, f64x2.div(knee, two));
    const bent = f64x2.div(f64x2.mul(f64x2.mul(slope, into), into), f64x2.mul(two, knee));
    const above = v128.bitselect(f64x2.mul(slope, over), bent, f64x2.ge(double, knee));
    v128.store(out + at, v128.bitselect(nothing, above, f64x2.le(double, f64x2.neg(knee))));
  }
}

/**
 * Lets a reduction follow those that are wanted, in place.
 * @param state where it is, and the deepest of the block, which is written
 * @param attack,release what is left of the way after a frame
 */
export function followReductions(state: usize, block: usize, attack: f64, release: f64, frames: i32): void {
  let reduction = load<f64>(state);
  let most: f64 = 0;
  for (let i = 0; i < frames; i++, block += 8) {
    const wanted = load<f64>(block);
    const away = reduction - wanted;
    reduction = wanted + (away > 0 ? attack : release) * away;
    if (reduction > NOTHING) reduction = 0;
    if (reduction < most) most = reduction;
    store<f64>(block, reduction);
  }
  store<f64>(state, reduction);
  store<f64>(state, most, 8);
}

/** Takes both sides of a block of floats to a gain of each frame, in doubles. */
export function scaleSides(left: usize, right: usize, gains: usize, frames: i32): void {
  let i = 0;
  for (; i + 2 <= frames; i += 2, left += 8, right += 8, gains += 16) {
    const gain = v128.load(gains);
    const l = f64x2.mul(f64x2.promote_low_f32x4(v128.load64_zero(left)), gain);
    const r = f64x2.mul(f64x2.promote_low_f32x4(v128.load64_zero(right)), gain);
    v128.store64_lane(left, f32x4.demote_f64x2_zero(l), 0);
    v128.store64_lane(right, f32x4.demote_f64x2_zero(r), 0);
  }
  if (i == frames) return;
  store<f32>(left, ((load<f32>(left) as f64) * load<f64>(gains)) as f32);
  store<f32>(right, ((load<f32>(right) as f64) * load<f64>(gains)) as f32);
}

/** Takes both sides of a block of floats to what a mix makes of a gain, its make-up included: 1 - mix + mix gain. */
export function weighSides(left: usize, right: usize, gains: usize, makeups: usize, mixes: usize, frames: i32): void {
  const one = f64x2.splat(1);
  let i = 0;
  for (; i + 2 <= frames; i += 2, left += 8, right += 8, gains += 8, makeups += 16, mixes += 16) {
    const gain = f64x2.mul(f64x2.promote_low_f32x4(v128.load64_zero(gains)), v128.load(makeups));
    const mix = v128.load(mixes);
    const weight = f64x2.add(f64x2.sub(one, mix), f64x2.mul(mix, gain));
    const l = f64x2.mul(f64x2.promote_low_f32x4(v128.load64_zero(left)), weight);
    const r = f64x2.mul(f64x2.promote_low_f32x4(v128.load64_zero(right)), weight);
    v128.store64_lane(left, f32x4.demote_f64x2_zero(l), 0);
    v128.store64_lane(right, f32x4.demote_f64x2_zero(r), 0);
  }
  if (i == frames) return;
  const mix = load<f64>(mixes);
  const weight = 1 - mix + mix * ((load<f32>(gains) as f64) * load<f64>(makeups));
  store<f32>(left, ((load<f32>(left) as f64) * weight) as f32);
  store<f32>(right, ((load<f32>(right) as f64) * weight) as f32);
}

// A gate: whether it is open, the frames for which it stays so, and its gain.

const OPEN: usize = 0;
const HELD: usize = 8;
const GAIN: usize = 16;
/** Gains below this are the floor. */
const CLOSED: f64 = 1e-5;

/** Gains of a gate for a block of levels, in their place; the floor of each frame. */
export function gateGains(
  state: usize,
  block: usize,
  floors: usize,
  opensAt: f64,
  closesAt: f64,
  hold: f64,
  openingStep: f64,
  closingFactor: f64,
  frames: i32,
): void {
  let open = load<f64>(state, OPEN) != 0;
  let held = load<f64>(state, HELD);
  let gain = load<f64>(state, GAIN);
  for (let i = 0; i < frames; i++, block += 8, floors += 8) {
    const level = load<f64>(block);
    if (level >= opensAt || (open && level >= closesAt)) {
      open = true;
      held = hold;
    } else if (open) {
      if (held > 0) held -= 1;
      else open = false;
    }
    const floor = load<f64>(floors);
    if (open) {
      gain = min<f64>(1, gain + openingStep);
    } else if (gain > floor) {
      gain *= closingFactor;
      if (gain < floor || gain < CLOSED) gain = floor;
    } else {
      gain = floor;
    }
    store<f64>(block, gain);
  }
  store<f64>(state, open ? 1 : 0, OPEN);
  store<f64>(state, held, HELD);
  store<f64>(state, gain, GAIN);
}

// A shaper of transients: its four followers in decibels and what it lifts by.

const RISE_FAST: usize = 0;
const RISE_SLOW: usize = 8;
const FALL_FAST: usize = 16;
const FALL_SLOW: usize = 24;
const SHAPED: usize = 32;

/**
 * Turns a block of levels into upward gains, in dB, in place.
 * @param factors of the four followers, and of the smoothing, as they lie in the state
 * @param attacks,sustains how much of each, for each frame
 */
export function shapeTransients(
  state: usize,
  factors: usize,
  block: usize,
  attacks: usize,
  sustains: usize,
  least: f64,
  most: f64,
  frames: i32,
): void {
  const riseFastFactor = load<f64>(factors, RISE_FAST);
  const riseSlowFactor = load<f64>(factors, RISE_SLOW);
  const fallFastFactor = load<f64>(factors, FALL_FAST);
  const fallSlowFactor = load<f64>(factors, FALL_SLOW);
  const smoothing = load<f64>(factors, SHAPED);
  let riseFast = load<f64>(state, RISE_FAST);
  let riseSlow = load<f64>(state, RISE_SLOW);
  let fallFast = load<f64>(state, FALL_FAST);
  let fallSlow = load<f64>(state, FALL_SLOW);
  let shaped = load<f64>(state, SHAPED);
  for (let i = 0; i < frames; i++, block += 8, attacks += 8, sustains += 8) {
    const db = max(least, load<f64>(block));
    riseFast = db + (db > riseFast ? riseFastFactor : fallFastFactor) * (riseFast - db);
    riseSlow = db + (db > riseSlow ? riseSlowFactor : fallFastFactor) * (riseSlow - db);
    fallFast = db > fallFast ? db : db + fallFastFactor * (fallFast - db);
    fallSlow = db > fallSlow ? db : db + fallSlowFactor * (fallSlow - db);
    const wanted = load<f64>(attacks) * (riseFast - riseSlow) + load<f64>(sustains) * (fallSlow - fallFast);
    const bounded = min(most, max(-most, wanted));
    shaped = bounded + smoothing * (shaped - bounded);
    if (shaped < 1e-7 && shaped > -1e-7) shaped = 0;
    store<f64>(block, shaped);
  }
  store<f64>(state, riseFast, RISE_FAST);
  store<f64>(state, riseSlow, RISE_SLOW);
  store<f64>(state, fallFast, FALL_FAST);
  store<f64>(state, fallSlow, FALL_SLOW);
  store<f64>(state, shaped, SHAPED);
}

/** Turns a block of levels into gain reductions from thresholds and the largest reduction allowed, in place. */
export function boundedReductions(block: usize, thresholds: usize, amounts: usize, frames: i32): void {
  const nothing = f64x2.splat(0);
  const bytes = (frames as usize) << 3;
  for (let at: usize = 0; at < bytes; at += 16) {
    const over = f64x2.sub(v128.load(block + at), v128.load(thresholds + at));
    v128.store(block + at, f64x2.neg(f64x2.pmin(f64x2.pmax(over, nothing), v128.load(amounts + at))));
  }
}

/**
 * A bell that cuts both sides alike, in place: see `Cut` of the de-esser.
 * @param state by pairs both integrators
 * @param gains of the centre in every frame, above 0 to 1
 */
export function cutBell(
  state: usize,
  left: usize,
  right: usize,
  gains: usize,
  g: f64,
  inverseQ: f64,
  frames: i32,
): void {
  let s1 = v128.load(state);
  let s2 = v128.load(state, 16);
  const two = f64x2.splat(2);
  let last: f64 = 0;
  let cut = f64x2.splat(0);
  let a1 = cut;
  let a2 = cut;
  let a3 = cut;
  for (let i = 0; i < frames; i++, left += 8, right += 8, gains += 8) {
    const gain = load<f64>(gains);
    if (gain != last) {
      last = gain;
      const k = inverseQ / sqrt(gain);
      const first = 1 / (1 + g * (g + k));
      const second = g * first;
      a1 = f64x2.splat(first);
      a2 = f64x2.splat(second);
      a3 = f64x2.splat(g * second);
      cut = f64x2.splat((1 - gain) * k);
    }
    const x = v128.load64_lane(right, v128.load64_zero(left), 1);
    const v3 = f64x2.sub(x, s2);
    const v1 = f64x2.add(f64x2.mul(a1, s1), f64x2.mul(a2, v3));
    const v2 = f64x2.add(f64x2.add(s2, f64x2.mul(a2, s1)), f64x2.mul(a3, v3));
    s1 = settled(f64x2.sub(f64x2.mul(two, v1), s1));
    s2 = settled(f64x2.sub(f64x2.mul(two, v2), s2));
    if (gain == 1) continue;
    const y = f64x2.sub(x, f64x2.mul(cut, v1));
    v128.store64_lane(left, y, 0);
    v128.store64_lane(right, y, 1);
  }
  v128.store(state, s1);
  v128.store(state, s2, 16);
}
