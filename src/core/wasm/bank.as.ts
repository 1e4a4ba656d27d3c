// Banks of band-pass filters, two bands at a time, as `bandBankTwin.ts`, which says how they are laid out.
import { settled } from './blocks.as';

const PAIR: usize = 16;

/** Now and then, at the same frames however blocks are cut. */
@inline
function restIf(settles: bool, x: v128): v128 {
  return settles ? settled(x) : x;
}

/** Follows the level of each band of a sound. */
export function followBands(
  input: usize,
  coefficients: usize,
  states: usize,
  rates: usize,
  levels: usize,
  pairs: i32,
  sections: i32,
  frames: i32,
  settles: bool,
): void {
  const perPair = (sections as usize) << 5;
  for (let pair = 0; pair < pairs; pair++) {
    const at = coefficients + (pair as usize) * perPair;
    const state = states + (pair as usize) * (perPair + PAIR);
    const zero = f64x2.splat(0);
    const a1 = v128.load(at);
    const a2 = v128.load(at, 16);
    const b1 = sections > 1 ? v128.load(at, 32) : zero;
    const b2 = sections > 1 ? v128.load(at, 48) : zero;
    const c1 = sections > 2 ? v128.load(at, 64) : zero;
    const c2 = sections > 2 ? v128.load(at, 80) : zero;
    const d1 = sections > 3 ? v128.load(at, 96) : zero;
    const d2 = sections > 3 ? v128.load(at, 112) : zero;
    let level = v128.load(state);
    let s1 = v128.load(state, 16);
    let s2 = v128.load(state, 32);
    let t1 = sections > 1 ? v128.load(state, 48) : zero;
    let t2 = sections > 1 ? v128.load(state, 64) : zero;
    let u1 = sections > 2 ? v128.load(state, 80) : zero;
    let u2 = sections > 2 ? v128.load(state, 96) : zero;
    let w1 = sections > 3 ? v128.load(state, 112) : zero;
    let w2 = sections > 3 ? v128.load(state, 128) : zero;
    const rate = rates + (pair as usize) * 48;
    const gain = v128.load(rate);
    const rise = v128.load(rate, 16);
    const fall = v128.load(rate, 32);
    let to = levels + (pair as usize) * ((frames as usize) << 4);
    for (let i = 0; i < frames; i++, to += PAIR) {
      let x = f64x2.splat(load<f64>(input + ((i as usize) << 3)));
      let y = f64x2.sub(x, s1);
      s1 = f64x2.add(s2, f64x2.mul(a1, y));
      s2 = f64x2.add(x, f64x2.mul(a2, y));
      if (sections > 1) {
        x = y;
        y = f64x2.sub(x, t1);
        t1 = f64x2.add(t2, f64x2.mul(b1, y));
        t2 = f64x2.add(x, f64x2.mul(b2, y));
      }
      if (sections > 2) {
        x = y;
        y = f64x2.sub(x, u1);
        u1 = f64x2.add(u2, f64x2.mul(c1, y));
        u2 = f64x2.add(x, f64x2.mul(c2, y));
      }
      if (sections > 3) {
        x = y;
        y = f64x2.sub(x, w1);
        w1 = f64x2.add(w2, f64x2.mul(d1, y));
        w2 = f64x2.add(x, f64x2.mul(d2, y));
      }
      const loud = f64x2.mul(gain, f64x2.abs(y));
      const by = v128.bitselect(rise, fall, f64x2.gt(loud, level));
      level = f64x2.add(level, f64x2.mul(by, f64x2.sub(loud, level)));
      v128.store(to, level);
    }
    v128.store(state, restIf(settles, level));
    v128.store(state, restIf(settles, s1), 16);
    v128.store(state, restIf(settles, s2), 32);
    if (sections > 1) {
      v128.store(state, restIf(settles, t1), 48);
      v128.store(state, restIf(settles, t2), 64);
    }
    if (sections > 2) {
      v128.store(state, restIf(settles, u1), 80);
      v128.store(state, restIf(settles, u2), 96);
    }
    if (sections > 3) {
      v128.store(state, restIf(settles, w1), 112);
      v128.store(state, restIf(settles, w2), 128);
    }
  }
}

/**
 * Adds the bands of two sounds at the same levels, each to its sum, and, when it measures, sums up how strong each band
 * is before and after. Both sounds are worked on together, so that the machine has something to do while it waits for
 * one.
 */
export function weighBands(
  left: usize,
  right: usize,
  coefficients: usize,
  leftStates: usize,
  rightStates: usize,
  rates: usize,
  levels: usize,
  leftSums: usize,
  rightSums: usize,
  powers: usize,
  measures: bool,
  pairs: i32,
  sections: i32,
  frames: i32,
  settles: bool,
): void {
  const perPair = (sections as usize) << 5;
  for (let pair = 0; pair < pairs; pair++) {
    const at = coefficients + (pair as usize) * perPair;
    const lState = leftStates + (pair as usize) * (perPair + PAIR);
    const rState = rightStates + (pair as usize) * (perPair + PAIR);
    const zero = f64x2.splat(0);
    const a1 = v128.load(at);
    const a2 = v128.load(at, 16);
    const b1 = sections > 1 ? v128.load(at, 32) : zero;
    const b2 = sections > 1 ? v128.load(at, 48) : zero;
    const c1 = sections > 2 ? v128.load(at, 64) : zero;
    const c2 = sections > 2 ? v128.load(at, 80) : zero;
    const d1 = sections > 3 ? v128.load(at, 96) : zero;
    const d2 = sections > 3 ? v128.load(at, 112) : zero;
    let ls1 = v128.load(lState, 16);
    let ls2 = v128.load(lState, 32);
    let lt1 = sections > 1 ? v128.load(lState, 48) : zero;
    let lt2 = sections > 1 ? v128.load(lState, 64) : zero;
    let lu1 = sections > 2 ? v128.load(lState, 80) : zero;
    let lu2 = sections > 2 ? v128.load(lState, 96) : zero;
    let lw1 = sections > 3 ? v128.load(lState, 112) : zero;
    let lw2 = sections > 3 ? v128.load(lState, 128) : zero;
    let rs1 = v128.load(rState, 16);
    let rs2 = v128.load(rState, 32);
    let rt1 = sections > 1 ? v128.load(rState, 48) : zero;
    let rt2 = sections > 1 ? v128.load(rState, 64) : zero;
    let ru1 = sections > 2 ? v128.load(rState, 80) : zero;
    let ru2 = sections > 2 ? v128.load(rState, 96) : zero;
    let rw1 = sections > 3 ? v128.load(rState, 112) : zero;
    let rw2 = sections > 3 ? v128.load(rState, 128) : zero;
    const gain = v128.load(rates + (pair as usize) * 48);
    let from = levels + (pair as usize) * ((frames as usize) << 4);
    let before = zero;
    let after = zero;
    for (let i = 0; i < frames; i++, from += PAIR) {
      let lx = f64x2.splat(load<f64>(left + ((i as usize) << 3)));
      let rx = f64x2.splat(load<f64>(right + ((i as usize) << 3)));
      let ly = f64x2.sub(lx, ls1);
      ls1 = f64x2.add(ls2, f64x2.mul(a1, ly));
      ls2 = f64x2.add(lx, f64x2.mul(a2, ly));
      let ry = f64x2.sub(rx, rs1);
      rs1 = f64x2.add(rs2, f64x2.mul(a1, ry));
      rs2 = f64x2.add(rx, f64x2.mul(a2, ry));
      if (sections > 1) {
        lx = ly;
        rx = ry;
        ly = f64x2.sub(lx, lt1);
        lt1 = f64x2.add(lt2, f64x2.mul(b1, ly));
        lt2 = f64x2.add(lx, f64x2.mul(b2, ly));
        ry = f64x2.sub(rx, rt1);
        rt1 = f64x2.add(rt2, f64x2.mul(b1, ry));
        rt2 = f64x2.add(rx, f64x2.mul(b2, ry));
      }
      if (sections > 2) {
        lx = ly;
        rx = ry;
        ly = f64x2.sub(lx, lu1);
        lu1 = f64x2.add(lu2, f64x2.mul(c1, ly));
        lu2 = f64x2.add(lx, f64x2.mul(c2, ly));
        ry = f64x2.sub(rx, ru1);
        ru1 = f64x2.add(ru2, f64x2.mul(c1, ry));
        ru2 = f64x2.add(rx, f64x2.mul(c2, ry));
      }
      if (sections > 3) {
        lx = ly;
        rx = ry;
        ly = f64x2.sub(lx, lw1);
        lw1 = f64x2.add(lw2, f64x2.mul(d1, ly));
        lw2 = f64x2.add(lx, f64x2.mul(d2, ly));
        ry = f64x2.sub(rx, rw1);
        rw1 = f64x2.add(rw2, f64x2.mul(d1, ry));
        rw2 = f64x2.add(rx, f64x2.mul(d2, ry));
      }
      const level = v128.load(from);
      ly = f64x2.mul(gain, ly);
      ry = f64x2.mul(gain, ry);
      if (measures) before = f64x2.add(before, f64x2.add(f64x2.mul(ly, ly), f64x2.mul(ry, ry)));
      ly = f64x2.mul(ly, level);
      ry = f64x2.mul(ry, level);
      if (measures) after = f64x2.add(after, f64x2.add(f64x2.mul(ly, ly), f64x2.mul(ry, ry)));
      const sum = (i as usize) << 4;
      v128.store(leftSums + sum, f64x2.add(v128.load(leftSums + sum), ly));
      v128.store(rightSums + sum, f64x2.add(v128.load(rightSums + sum), ry));
    }
    v128.store(lState, restIf(settles, ls1), 16);
    v128.store(lState, restIf(settles, ls2), 32);
    if (sections > 1) {
      v128.store(lState, restIf(settles, lt1), 48);
      v128.store(lState, restIf(settles, lt2), 64);
    }
    if (sections > 2) {
      v128.store(lState, restIf(settles, lu1), 80);
      v128.store(lState, restIf(settles, lu2), 96);
    }
    if (sections > 3) {
      v128.store(lState, restIf(settles, lw1), 112);
      v128.store(lState, restIf(settles, lw2), 128);
    }
    v128.store(rState, restIf(settles, rs1), 16);
    v128.store(rState, restIf(settles, rs2), 32);
    if (sections > 1) {
      v128.store(rState, restIf(settles, rt1), 48);
      v128.store(rState, restIf(settles, rt2), 64);
    }
    if (sections > 2) {
      v128.store(rState, restIf(settles, ru1), 80);
      v128.store(rState, restIf(settles, ru2), 96);
    }
    if (sections > 3) {
      v128.store(rState, restIf(settles, rw1), 112);
      v128.store(rState, restIf(settles, rw2), 128);
    }
    const power = powers + ((pair as usize) << 5);
    v128.store(power, f64x2.add(v128.load(power), before));
    v128.store(power, f64x2.add(v128.load(power, 16), after), 16);
  }
}

/** Levels of other bands in the place of each: by band the place that they come from, between two, and its step. */
export function shiftBands(
  levels: usize,
  shifted: usize,
  bands: i32,
  places: usize,
  offset: i32,
  frames: i32,
): void {
  const row = (frames as usize) << 4;
  for (let band = 0; band < bands; band++) {
    const to = shifted + ((band >> 1) as usize) * row + (((band & 1) as usize) << 3);
    const at = places + ((band as usize) << 4);
    const first = load<f64>(at);
    const step = load<f64>(at, 8);
    for (let i = 0; i < frames; i++) {
      const place = first + ((offset + i) as f64) * step;
      const below = floor(place);
      const part = place - below;
      store<f64>(
        to + ((i as usize) << 4),
        (1 - part) * levelOf(levels, row, bands, below as i32, i) +
          part * levelOf(levels, row, bands, (below as i32) + 1, i),
      );
    }
  }
}

@inline
function levelOf(levels: usize, row: usize, bands: i32, band: i32, frame: i32): f64 {
  if (band < 0 || band >= bands) return 0;
  return load<f64>(levels + ((band >> 1) as usize) * row + (((band & 1) as usize) << 3) + ((frame as usize) << 4));
}

/** Both halves of each frame's sum together. */
export function joinSums(sums: usize, out: usize, frames: i32): void {
  for (let i = 0; i < frames; i++) {
    const sum = sums + ((i as usize) << 4);
    store<f64>(out + ((i as usize) << 3), load<f64>(sum) + load<f64>(sum, 8));
  }
}
