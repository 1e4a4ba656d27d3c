import { beatsPerBar } from '@/core/session/records/queries';
import type { SessionRecord } from '@/core/session/records/session';

/** A mark of the beat ruler. */
export interface RulerMark {
  readonly beat: number;
  readonly kind: 'bar' | 'beat' | 'part';
  /** Empty where there is no room. */
  readonly text: string;
}

/** Pixels that marks, and their words, take at least. */
const MARK_ROOM = 7;
const BAR_ROOM = 34;
const BEAT_ROOM = 48;
const PART_ROOM = 92;
/** Steps of parts of a beat, in ms: finer than a frame at any rate. */
const PART_STEPS_MS = [500, 200, 100, 50, 20, 10, 5, 2, 1, 0.5, 0.2, 0.1, 0.05, 0.02, 0.01];

const among = (from: number, to: number) => Array.from({ length: Math.max(0, to - from) }, (_, n) => from + n);

/**
 * Bars, beats, and closer the milliseconds behind each beat.
 * @param span first and last pixel that is drawn
 * @param beats that the ruler has
 */
export function rulerMarks(
  session: SessionRecord,
  pixelsPerBeat: number,
  span: readonly [number, number],
  beats: number,
): RulerMark[] {
  const perBar = beatsPerBar(session);
  const unit = 4 / session.metreUnit;
  const every = [1, 2, 4, 8, 16].find((count) => count * perBar * pixelsPerBeat > BAR_ROOM) ?? 32;
  const [from, to] = [Math.max(0, span[0] / pixelsPerBeat), Math.min(beats, span[1] / pixelsPerBeat)];
  const hasBeats = unit * pixelsPerBeat > MARK_ROOM;
  const isNamed = unit * pixelsPerBeat > BEAT_ROOM;
  const msPerBeat = 60000 / session.tempoBpm;
  const step = PART_STEPS_MS.findLast((ms) => (ms / msPerBeat) * pixelsPerBeat > PART_ROOM);
  return among(Math.floor(from / perBar), Math.ceil(to / perBar)).flatMap((bar): RulerMark[] => [
    { beat: bar * perBar, kind: 'bar', text: bar % every === 0 ? String(bar + 1) : '' },
    ...(hasBeats ? among(0, session.metreBeats) : []).flatMap((count): RulerMark[] => {
      const beat = bar * perBar + count * unit;
      const own: RulerMark[] = [{ beat, kind: 'beat', text: isNamed ? `${bar + 1}.${count + 1}` : '' }];
      if (step === undefined || step >= unit * msPerBeat) return count === 0 ? [] : own;
      const first = Math.max(1, Math.floor(((from - beat) * msPerBeat) / step));
      const last = Math.min(Math.ceil((unit * msPerBeat) / step), Math.ceil(((to - beat) * msPerBeat) / step) + 1);
      const parts = among(first, last).map((n): RulerMark => ({
        beat: beat + (n * step) / msPerBeat,
        kind: 'part',
        text: `${bar + 1}.${count + 1} +${Number((n * step).toFixed(2))} ms`,
      }));
      return count === 0 ? parts : [...own, ...parts];
    }),
  ]);
}
