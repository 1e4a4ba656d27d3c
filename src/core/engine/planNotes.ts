import type { PlanNote } from './plan';

/** A note in beats, with velocity from 1 to 127. */
interface BeatNote {
  readonly startBeat: number;
  readonly lengthBeats: number;
  readonly key: number;
  readonly velocity: number;
}

/** Notes in frames, each of one at least: by their beginnings, then by key, length and velocity. */
export function planNotes(notes: readonly BeatNote[], framesPerBeat: number): PlanNote[] {
  return notes
    .map(({ startBeat, lengthBeats, key, velocity }) => {
      const startFrame = Math.round(startBeat * framesPerBeat);
      const endFrame = Math.max(startFrame + 1, Math.round((startBeat + lengthBeats) * framesPerBeat));
      return { startFrame, lengthFrames: endFrame - startFrame, key, velocity: velocity / 127 };
    })
    .sort(
      (a, b) =>
        a.startFrame - b.startFrame || a.key - b.key || a.lengthFrames - b.lengthFrames || a.velocity - b.velocity,
    );
}
