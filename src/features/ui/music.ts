import { NOTE_VALUES, noteValueName, noteValueSeconds, type Timing } from '@/core/effects/noteValues';
import { formatUnit } from '@/core/effects/units';
import { keyOfHz, stepOf } from '@/core/math/keys';

const NOTES = ['C', 'C♯', 'D', 'D♯', 'E', 'F', 'F♯', 'G', 'G♯', 'A', 'A♯', 'B'];

/** A frequency with the note it is nearest to and how far it is off: `1 kHz, B5 +21 ct`. */
export function formatPitch(hz: number): string {
  const key = keyOfHz(hz);
  const nearest = Math.round(key);
  const cents = Math.round(100 * (key - nearest));
  const off = cents === 0 ? '' : ` ${cents > 0 ? '+' : '−'}${Math.abs(cents)} ct`;
  const name = `${NOTES[stepOf(nearest)]}${Math.floor(nearest / 12) - 1}`;
  return `${formatUnit('Hz', Number(hz.toPrecision(3)))}, ${name}${off}`;
}

/** As far as a time may be from a note value to be called it. */
const NEAR = 0.02;

/** A time with the note value that it is: `536 ms, 1/8 dotted`; in beats where it is none. */
export function formatTime(seconds: number, timing: Timing): string {
  const note = NOTE_VALUES.find((one) => Math.abs(noteValueSeconds(one, timing)! / seconds - 1) < NEAR);
  const beats = `${((seconds * timing.tempoBpm) / 60).toFixed(2)} beats`;
  const plain = seconds < 1 ? formatUnit('ms', Number((1000 * seconds).toPrecision(3))) : `${seconds.toFixed(2)} s`;
  return `${plain}, ${note ? noteValueName(note) : beats}`;
}

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

/** Seconds as `1:05.3`, from an hour on as `1:00:05.3`. */
export function formatSeconds(seconds: number): string {
  const tenths = Math.round(10 * seconds);
  const minutes = Math.floor(tenths / 600);
  const rest = ((tenths % 600) / 10).toFixed(1).padStart(4, '0');
  if (minutes < 60) return `${minutes}:${rest}`;
  return `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, '0')}:${rest}`;
}

/** Progress in per cent, and the time left where it is known. */
export function progressWords({ progress, secondsLeft }: { progress: number; secondsLeft: number | null }): string {
  const part = `${Math.round(progress * 100)} %`;
  if (secondsLeft === null) return part;
  const seconds = Math.max(1, Math.round(secondsLeft));
  return `${part}, about ${seconds < 100 ? `${seconds} s` : `${Math.round(seconds / 60)} min`} left`;
}

/** The beat of the grid nearest to one; as it is when the grid is off. */
export function snapTo(beat: number, grid: number): number {
  return grid > 0 ? Math.round(beat / grid) * grid : beat;
}
