/** Pitch over time of a near-sinusoid, from upward zero crossings `span` periods apart: [frame, Hz]. */
export function pitchTrack(sound: Float32Array, rate: number, span = 20): [number, number][] {
  const crossings: number[] = [];
  for (let n = 1; n < sound.length; n++) {
    const a = sound[n - 1]!;
    const b = sound[n]!;
    if (a < 0 && b >= 0) crossings.push(n - 1 + a / (a - b));
  }
  return crossings.slice(span).map((at, i) => [(at + crossings[i]!) / 2, (span * rate) / (at - crossings[i]!)]);
}

/** Delay over time from the phase of a tone that went through: [frame, seconds], the first within one period. */
export function delayTrack(sound: Float32Array, hz: number, rate: number): [number, number][] {
  const size = Math.round((rate / hz) * 8);
  const track: [number, number][] = [];
  let turns = 0;
  let last: number | null = null;
  for (let at = 0; at + size <= sound.length; at += size / 8) {
    const start = Math.round(at);
    let re = 0;
    let im = 0;
    for (let i = 0; i < size; i++) {
      const w = 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / size);
      const phase = (2 * Math.PI * hz * (start + i)) / rate;
      re += w * sound[start + i]! * Math.sin(phase);
      im += w * sound[start + i]! * Math.cos(phase);
    }
    const lag = -Math.atan2(im, re) / (2 * Math.PI * hz);
    if (last !== null) turns += Math.round((last - lag) * hz);
    last = lag;
    track.push([start + size / 2, lag + turns / hz]);
  }
  return track;
}
