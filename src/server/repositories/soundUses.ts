import { and, eq, gte, inArray, lt, notInArray, or, sql } from 'drizzle-orm';
import { assets, SOUND_OWNERS, soundUses } from '../db/schema';
import { lockUntilEnd, SWEEP } from '../db/advisoryLocks';
import type { Work } from '../db/database';

type OwnerKind = (typeof SOUND_OWNERS)[number];

interface Owner {
  readonly kind: OwnerKind;
  readonly ownerId: string;
}

/** Ids of the sounds that a record names anywhere: 64 hexadecimal figures. */
export function soundIdsIn(record: unknown): string[] {
  return [...new Set(JSON.stringify(record)?.match(/[0-9a-f]{64}/g) ?? [])];
}

/** Notes that records of an owner name sounds. The lock keeps a sweep from taking them before that is committed. */
async function add(work: Work, rows: readonly (typeof soundUses.$inferInsert)[]): Promise<void> {
  if (rows.length === 0) return;
  await lockUntilEnd(work, SWEEP, 'shared');
  await work
    .insert(soundUses)
    .values([...rows])
    .onConflictDoNothing();
}

/** Notes the sounds that a record names beside those that are known of its owner. */
export async function addUses(work: Work, owner: Owner, record: unknown): Promise<void> {
  await add(
    work,
    soundIdsIn(record).map((soundId) => ({ ...owner, soundId })),
  );
}

/** Notes the sounds that a record names in place of those that were known of its owner. */
export async function replaceUses(work: Work, owner: Owner, record: unknown): Promise<void> {
  const ids = soundIdsIn(record);
  await add(
    work,
    ids.map((soundId) => ({ ...owner, soundId })),
  );
  await work.delete(soundUses).where(and(ownedBy(owner), notInArray(soundUses.soundId, ids)));
}

/** Forgets all uses of an owner; its sounds count as used until now. */
export async function dropUses(work: Work, owner: Owner): Promise<void> {
  const dropped = await work.delete(soundUses).where(ownedBy(owner)).returning({ soundId: soundUses.soundId });
  const ids = [...new Set(dropped.map(({ soundId }) => soundId))];
  if (ids.length > 0) {
    await work
      .update(assets)
      .set({ usedAt: sql`now()` })
      .where(inArray(assets.id, ids));
  }
}

const ownedBy = ({ kind, ownerId }: Owner) => and(eq(soundUses.kind, kind), eq(soundUses.ownerId, ownerId));

/** Notes the sounds that steps of a session name, by the numbers of the steps. */
export async function addStepUses(work: Work, sessionId: string, steps: ReadonlyMap<number, unknown>): Promise<void> {
  await add(
    work,
    [...steps].flatMap(([part, step]) =>
      soundIdsIn(step).map((soundId) => ({ kind: 'step' as const, ownerId: sessionId, part, soundId })),
    ),
  );
}

/** Forgets what steps used that are no longer remembered: those before `first`, and from `keep` on. */
export async function dropStepUses(work: Work, sessionId: string, first: number, keep: number): Promise<void> {
  const outside = or(gte(soundUses.part, keep), lt(soundUses.part, first));
  await work.delete(soundUses).where(and(ownedBy({ kind: 'step', ownerId: sessionId }), outside));
}
