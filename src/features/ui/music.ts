/** A beat (in quarter notes) as bar, beat of the metre and hundredths of it: `6.2.25`. */
export function formatPosition(
  beat: number,
  session: { metreBeats: number; metreUnit: number },
): { bar: number; beat: number; part: number } {
  const units = (beat * session.metreUnit) / 4 + 1e-6;
  const whole = Math.floor(units);
  return {
    bar: Math.floor(whole / session.metreBeats) + 1,
    beat: (whole % session.metreBeats) + 1,
    part: Math.floor((units - whole) * 100),
  };
}

/** Seconds as `1:05.3`. */
export function formatSeconds(seconds: number): string {
  const minutes = Math.floor(seconds / 60);
  return `${minutes}:${(seconds - 60 * minutes).toFixed(1).padStart(4, '0')}`;
}

/** The beat of the grid nearest to one; as it is when the grid is off. */
export function snapTo(beat: number, grid: number): number {
  return grid > 0 ? Math.round(beat / grid) * grid : beat;
}
