// Banks of band-pass filters in single precision, four bands at a time, as `bandBankTwin.ts`.
const QUAD: usize = 16;
/** Added and subtracted again against denormal numbers. */
const TINY: f32 = 1e-15;

/** Now and then, at the same frames however blocks are cut. */
@inline
function restIf(settles: bool, x: v128): v128 {
  return settles ? f32x4.sub(f32x4.add(x, f32x4.splat(TINY)), f32x4.splat(TINY)) : x;
}

/** Follows the level of each band of a sound and, when it measures, sums up how strong the band is. */
export function followBands(
  input: usize,
  coefficients: usize,
  states: usize,
  rates: usize,
  levels: usize,
  powers: usize,
  measures: bool,
  quads: i32,
  sections: i32,
  frames: i32,
  settles: bool,
): void {
  const perQuad = (sections as usize) << 5;
  for (let quad = 0; quad < quads; quad++) {
    const at = coefficients + (quad as usize) * perQuad;
    const state = states + (quad as usize) * (perQuad + QUAD);
    const zero = f32x4.splat(0);
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
    const rate = rates + (quad as usize) * 80;
    const gain = v128.load(rate);
    const rise = v128.load(rate, 16);
    const fall = v128.load(rate, 32);
    const sum = powers + (quad as usize) * QUAD;
    // Added up frame by frame, so that it does not matter how blocks are cut.
    let power = v128.load(sum);
    let to = levels + (quad as usize) * ((frames as usize) << 4);
    for (let i = 0; i < frames; i++, to += QUAD) {
      let x = v128.load32_splat(input + ((i as usize) << 2));
      let y = f32x4.sub(x, s1);
      s1 = f32x4.add(s2, f32x4.mul(a1, y));
      s2 = f32x4.add(x, f32x4.mul(a2, y));
      if (sections > 1) {
        x = y;
        y = f32x4.sub(x, t1);
        t1 = f32x4.add(t2, f32x4.mul(b1, y));
        t2 = f32x4.add(x, f32x4.mul(b2, y));
      }
      if (sections > 2) {
        x = y;
        y = f32x4.sub(x, u1);
        u1 = f32x4.add(u2, f32x4.mul(c1, y));
        u2 = f32x4.add(x, f32x4.mul(c2, y));
      }
      if (sections > 3) {
        x = y;
        y = f32x4.sub(x, w1);
        w1 = f32x4.add(w2, f32x4.mul(d1, y));
        w2 = f32x4.add(x, f32x4.mul(d2, y));
      }
      const loud = f32x4.mul(gain, f32x4.abs(y));
      if (measures) power = f32x4.add(power, f32x4.mul(loud, loud));
      const by = v128.bitselect(rise, fall, f32x4.gt(loud, level));
      level = f32x4.add(level, f32x4.mul(by, f32x4.sub(loud, level)));
      v128.store(to, level);
    }
    if (measures) v128.store(sum, power);
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
  quads: i32,
  sections: i32,
  frames: i32,
  settles: bool,
): void {
  const perQuad = (sections as usize) << 5;
  for (let quad = 0; quad < quads; quad++) {
    const at = coefficients + (quad as usize) * perQuad;
    const lState = leftStates + (quad as usize) * (perQuad + QUAD);
    const rState = rightStates + (quad as usize) * (perQuad + QUAD);
    const zero = f32x4.splat(0);
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
    const rate = rates + (quad as usize) * 80;
    const gain = v128.load(rate);
    let weight = v128.load(rate, 48);
    const step = v128.load(rate, 64);
    let from = levels + (quad as usize) * ((frames as usize) << 4);
    const power = powers + ((quad as usize) << 5);
    let before = v128.load(power);
    let after = v128.load(power, 16);
    for (let i = 0; i < frames; i++, from += QUAD) {
      let lx = v128.load32_splat(left + ((i as usize) << 2));
      let rx = v128.load32_splat(right + ((i as usize) << 2));
      let ly = f32x4.sub(lx, ls1);
      ls1 = f32x4.add(ls2, f32x4.mul(a1, ly));
      ls2 = f32x4.add(lx, f32x4.mul(a2, ly));
      let ry = f32x4.sub(rx, rs1);
      rs1 = f32x4.add(rs2, f32x4.mul(a1, ry));
      rs2 = f32x4.add(rx, f32x4.mul(a2, ry));
      if (sections > 1) {
        lx = ly;
        rx = ry;
        ly = f32x4.sub(lx, lt1);
        lt1 = f32x4.add(lt2, f32x4.mul(b1, ly));
        lt2 = f32x4.add(lx, f32x4.mul(b2, ly));
        ry = f32x4.sub(rx, rt1);
        rt1 = f32x4.add(rt2, f32x4.mul(b1, ry));
        rt2 = f32x4.add(rx, f32x4.mul(b2, ry));
      }
      if (sections > 2) {
        lx = ly;
        rx = ry;
        ly = f32x4.sub(lx, lu1);
        lu1 = f32x4.add(lu2, f32x4.mul(c1, ly));
        lu2 = f32x4.add(lx, f32x4.mul(c2, ly));
        ry = f32x4.sub(rx, ru1);
        ru1 = f32x4.add(ru2, f32x4.mul(c1, ry));
        ru2 = f32x4.add(rx, f32x4.mul(c2, ry));
      }
      if (sections > 3) {
        lx = ly;
        rx = ry;
        ly = f32x4.sub(lx, lw1);
        lw1 = f32x4.add(lw2, f32x4.mul(d1, ly));
        lw2 = f32x4.add(lx, f32x4.mul(d2, ly));
        ry = f32x4.sub(rx, rw1);
        rw1 = f32x4.add(rw2, f32x4.mul(d1, ry));
        rw2 = f32x4.add(rx, f32x4.mul(d2, ry));
      }
      const level = f32x4.mul(weight, v128.load(from));
      weight = f32x4.add(weight, step);
      ly = f32x4.mul(gain, ly);
      ry = f32x4.mul(gain, ry);
      if (measures) before = f32x4.add(before, f32x4.add(f32x4.mul(ly, ly), f32x4.mul(ry, ry)));
      ly = f32x4.mul(ly, level);
      ry = f32x4.mul(ry, level);
      if (measures) after = f32x4.add(after, f32x4.add(f32x4.mul(ly, ly), f32x4.mul(ry, ry)));
      const sum = (i as usize) << 4;
      v128.store(leftSums + sum, f32x4.add(v128.load(leftSums + sum), ly));
      v128.store(rightSums + sum, f32x4.add(v128.load(rightSums + sum), ry));
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
    v128.store(rate, weight, 48);
    v128.store(power, before);
    v128.store(power, after, 16);
  }
}

/** Levels of other bands in the place of each: by band the place that they come from, between two, and its step. */
export function shiftBands(levels: usize, shifted: usize, bands: i32, places: usize, offset: i32, frames: i32): void {
  const row = (frames as usize) << 4;
  for (let band = 0; band < bands; band++) {
    const to = shifted + ((band >> 2) as usize) * row + (((band & 3) as usize) << 2);
    const at = places + ((band as usize) << 4);
    const first = load<f64>(at);
    const step = load<f64>(at, 8);
    for (let i = 0; i < frames; i++) {
      const place = first + ((offset + i) as f64) * step;
      const below = floor(place);
      const part = place - below;
      store<f32>(
        to + ((i as usize) << 4),
        ((1 - part) * levelOf(levels, row, bands, below as i32, i) +
          part * levelOf(levels, row, bands, (below as i32) + 1, i)) as f32,
      );
    }
  }
}

@inline
function levelOf(levels: usize, row: usize, bands: i32, band: i32, frame: i32): f64 {
  if (band < 0 || band >= bands) return 0;
  return load<f32>(levels + ((band >> 2) as usize) * row + (((band & 3) as usize) << 2) + ((frame as usize) << 4));
}

/** The four parts of each frame's sum together, at a gain. */
export function joinSums(sums: usize, out: usize, gain: f64, frames: i32): void {
  for (let i = 0; i < frames; i++) {
    const sum = sums + ((i as usize) << 4);
    const first = (load<f32>(sum) as f64) + (load<f32>(sum, 4) as f64);
    const second = (load<f32>(sum, 8) as f64) + (load<f32>(sum, 12) as f64);
    store<f64>(out + ((i as usize) << 3), gain * (first + second));
  }
}
