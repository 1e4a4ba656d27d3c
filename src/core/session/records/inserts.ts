import * as yup from 'yup';
import type { Tap } from '../../engine/plan';
import type { ParameterValue } from '../../effects/spec';
import { flag, id, record } from '../fields';
import { TAPS } from './strips';
import { laneSchema, type Lane } from './lanes';

export const insertSchema = record({
  id: id(),
  effect: yup.string().strict().required(),
  bypass: flag(),
  values: yup.object().strict().required(),
  /** Strips that it listens to, by slot of its spec; where none is named, its own input takes the place. */
  inputs: yup.object().strict().required(),
  /** Whose notes it plays: a strip's, or its own by its own id; null is the strip that it is on. */
  notesFrom: id().nullable().defined().default(null),
});

export const inputSchema = record({ stripId: id(), tap: yup.string<Tap>().strict().required().oneOf(TAPS) });

export type InsertInput = yup.InferType<typeof inputSchema>;
export type Insert = Omit<yup.InferType<typeof insertSchema>, 'values' | 'inputs'> & {
  values: Record<string, ParameterValue>;
  inputs: Record<string, InsertInput>;
};

const SLOT_NAMES = ['A', 'B', 'C', 'D'] as const;

const slotSchema = record({
  inserts: yup.array(insertSchema).strict().required(),
  /** Automation of these inserts. */
  lanes: yup.array(laneSchema).strict().required(),
});

/** Up to four settings of one effect or of the chain of a strip, to switch between. */
export const comparisonSchema = record({
  /** The insert or the strip whose settings are compared. */
  id: id(),
  /** The slot that is heard; what it holds is in the document itself. */
  current: yup.string<SlotName>().strict().required().oneOf(SLOT_NAMES),
  slots: record({
    A: slotSchema.nullable().defined().default(null),
    B: slotSchema.nullable().defined().default(null),
    C: slotSchema.nullable().defined().default(null),
    D: slotSchema.nullable().defined().default(null),
  }),
});

export type SlotName = (typeof SLOT_NAMES)[number];
export type Slot = { inserts: Insert[]; lanes: Lane[] };
export type Comparison = {
  id: string;
  current: SlotName;
  slots: Record<SlotName, Slot | null>;
};
