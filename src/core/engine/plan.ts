/** What the engine plays: plain data, compiled from a session document. Times in frames, gains as factors. */

export interface PlanClip {
  readonly id: string;
  readonly assetId: string;
  readonly startFrame: number;
  /** Frames of the sound left out at its beginning. */
  readonly offsetFrame: number;
  readonly lengthFrames: number;
  readonly gain: number;
  readonly fadeInFrames: number;
  readonly fadeOutFrames: number;
}

export interface PlanInsert {
  readonly id: string;
  readonly effect: string;
  /** All parameters in kernel order. */
  readonly values: readonly number[];
  readonly bypass: boolean;
}

export interface PlanStrip {
  readonly id: string;
  readonly inserts: readonly PlanInsert[];
  readonly gain: number;
  /** -1 left to 1 right. */
  readonly pan: number;
  /** False when muted, or when something else is soloed. */
  readonly audible: boolean;
}

export interface PlanTrack extends PlanStrip {
  readonly clips: readonly PlanClip[];
}

export interface Plan {
  readonly sampleRate: number;
  readonly framesPerBeat: number;
  readonly endFrame: number;
  readonly loop: { readonly startFrame: number; readonly endFrame: number } | null;
  readonly tracks: readonly PlanTrack[];
  readonly main: PlanStrip;
}

/** A sound at the session's rate; a mono sound has the same array on both sides. */
export interface Samples {
  readonly left: Float32Array;
  readonly right: Float32Array;
}

/** A change that needs no new plan. */
export type PlanChange =
  | { readonly kind: 'parameter'; readonly insertId: string; readonly index: number; readonly value: number }
  | { readonly kind: 'bypass'; readonly insertId: string; readonly bypass: boolean }
  | {
      readonly kind: 'strip';
      readonly stripId: string;
      readonly gain: number;
      readonly pan: number;
      readonly audible: boolean;
    };

/**
 * The changes that lead from one plan to the next, or null when their structure differs and the whole plan must go out.
 */
export function changesBetween(before: Plan, after: Plan): PlanChange[] | null {
  const skeleton = (plan: Plan) =>
    JSON.stringify([
      plan.sampleRate,
      plan.framesPerBeat,
      plan.endFrame,
      plan.loop,
      [...plan.tracks, plan.main].map((strip) => [
        strip.id,
        'clips' in strip ? strip.clips : null,
        strip.inserts.map((insert) => [insert.id, insert.effect]),
      ]),
    ]);
  if (skeleton(before) !== skeleton(after)) return null;
  const changes: PlanChange[] = [];
  const strips = (plan: Plan): PlanStrip[] => [...plan.tracks, plan.main];
  const oldStrips = strips(before);
  strips(after).forEach((strip, index) => {
    const old = oldStrips[index]!;
    if (old.gain !== strip.gain || old.pan !== strip.pan || old.audible !== strip.audible) {
      changes.push({ kind: 'strip', stripId: strip.id, gain: strip.gain, pan: strip.pan, audible: strip.audible });
    }
    strip.inserts.forEach((insert, place) => {
      const oldInsert = old.inserts[place]!;
      if (insert.bypass !== oldInsert.bypass) {
        changes.push({ kind: 'bypass', insertId: insert.id, bypass: insert.bypass });
      }
      insert.values.forEach((value, i) => {
        if (value !== oldInsert.values[i]) changes.push({ kind: 'parameter', insertId: insert.id, index: i, value });
      });
    });
  });
  return changes;
}
