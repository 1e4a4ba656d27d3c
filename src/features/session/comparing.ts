import type { Levels } from '@/core/analysis/levels';
import type { Plan } from '@/core/engine/plan';
import { applyCommand } from '@/core/session/commands';
import { compileTap } from '@/core/session/compile/parts';
import { stripOf, stripOfInsert } from '@/core/session/records/queries';
import type { SessionDocument } from '@/core/session/records/document';
import type { SlotName } from '@/core/session/records/inserts';
import { stretchOf } from './bandProfile';
import type { Studio } from './studio';

export const SLOTS: readonly SlotName[] = ['A', 'B', 'C', 'D'];

/** The strip on which a compared effect or chain lies. */
export function comparedStrip(document: SessionDocument, targetId: string): string | undefined {
  return stripOf(document, targetId)?.id ?? stripOfInsert(document, targetId)?.id;
}

/** The slots that hold something; the one that is heard always does. */
export function filledSlots(document: SessionDocument, targetId: string): SlotName[] {
  const comparison = document.comparisons[targetId];
  if (!comparison) return ['A'];
  return SLOTS.filter((slot) => slot === comparison.current || comparison.slots[slot] !== null);
}

export const currentSlot = (document: SessionDocument, targetId: string): SlotName =>
  document.comparisons[targetId]?.current ?? 'A';

export const chooseCommand = (id: string, slot: SlotName) => ({ type: 'comparison.choose' as const, id, slot });

/** Measured levels by slot. */
export type SlotLevels = Readonly<Partial<Record<SlotName, Levels>>>;

/**
 * Levels of every filled slot at the strip's fader, over the loop or the whole session.
 * @throws KinetikonError work.cancelled
 */
export async function measureSlots(studio: Studio, targetId: string): Promise<SlotLevels> {
  const { document } = studio.state;
  const stripId = comparedStrip(document, targetId)!;
  const slots = filledSlots(document, targetId);
  const plans: Plan[] = slots.map((slot) =>
    compileTap(applyCommand(document, chooseCommand(targetId, slot), '').document, stripId),
  );
  const range = stretchOf(document, plans[0]!);
  return studio.jobs.track('Measuring loudness', async ({ signal, progress }) => {
    const samples = await studio.sounds.allPlayed(signal);
    const measured: Partial<Record<SlotName, Levels>> = {};
    for (const [index, slot] of slots.entries()) {
      measured[slot] = await studio.renderer.run(
        { kind: 'levels', plan: plans[index]!, samples, range },
        { signal, onProgress: (done) => progress((index + done) / slots.length) },
      );
    }
    return measured;
  });
}

/** Decibels that bring every slot down to the softest; nothing is lifted, so nothing clips. */
export function gainsFor(levels: SlotLevels): Partial<Record<SlotName, number>> {
  const heard = Object.values(levels).flatMap(({ loudnessLufs }) => loudnessLufs ?? []);
  const softest = Math.min(...heard);
  return Object.fromEntries(
    Object.entries(levels).map(([slot, { loudnessLufs: lufs }]) => [
      slot,
      lufs === null ? 0 : Number((softest - lufs).toFixed(2)),
    ]),
  );
}
