import type { ComponentType, ReactNode } from 'react';
import type { ParameterValues } from '@/core/effects/values';
import type { Insert } from '@/core/session/records/inserts';

export interface ItemProps {
  readonly insert: Insert;
  /** Which item of its longest list is open, from 1. */
  readonly item: number;
  readonly onItem: (item: number) => void;
}

/** A part of the controls, for effects with too many to be shown at once. */
export interface ControlPage {
  readonly id: string;
  readonly name: (item: number) => string;
  /** True if a group of controls, by its heading, belongs here. */
  readonly holds: (heading: string) => boolean;
}

export interface Part {
  readonly name: string;
  readonly values: ParameterValues;
}

/** Additions to the large view of an effect besides what follows from its spec. */
export interface EffectExtras {
  /** In place of the picture that its spec names. */
  readonly Picture?: ComponentType<ItemProps>;
  /** Its name. */
  readonly pictureName?: string;
  /** Under the picture of its movement. */
  readonly BelowMovement?: ComponentType<{ readonly insert: Insert }>;
  /** Beside its name. */
  readonly Tools?: ComponentType<{ readonly insert: Insert }>;
  /** In place of plain tabs for the items of its list. */
  readonly Items?: ComponentType<ItemProps>;
  readonly pages?: readonly ControlPage[];
  /** Groups of controls, by heading, that stand in a frame of their own. */
  readonly groups?: Readonly<Record<string, ComponentType<{ readonly insert: Insert; readonly children: ReactNode }>>>;
  /** Parameters, by id, that `Items` or a frame of `groups` shows. */
  readonly shows?: (id: string) => boolean;
  /** Two parts of what it adds, each with the values at which it is heard alone: its impulse response shows them apart. */
  readonly parts?: readonly [Part, Part];
  /** Its picture has the spectrum before and after. */
  readonly withSpectrum?: boolean;
  /** Its picture has the field before and after. */
  readonly withScope?: boolean;
  /** Its picture is as good in half the width: the controls stand beside it. */
  readonly beside?: boolean;
  /** Its picture leaves no room for the history of the level it takes away. */
  readonly withoutHistory?: boolean;
}
