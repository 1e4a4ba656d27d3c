'use client';

import { useMemo } from 'react';
import { clamp } from '@/core/math/clamp';
import { formatValue } from '@/core/effects/parameterText';
import { specOf } from '@/core/effects/registry';
import { findParameter, type NumberParameter } from '@/core/effects/spec';
import type { ParameterValues } from '@/core/effects/values';
import type { Insert } from '@/core/session/records/inserts';
import { timingOf } from '@/core/session/records/queries';
import { useStudio, useStudioState } from '../../session/StudioContext';
import { useSpectrum } from '../../controls/useSpectrum';
import { axesOf } from '../pictures/axes';
import { CurvePicture, type Grip } from '../pictures/CurvePicture';
import { usePicture } from '../pictures/pictures';
import { useMovedPicture } from '../pictures/useMovedPicture';

/** Taller than other pictures: most of the work is done in it. */
const HEIGHT = 400;
const LIFTING = ['bell', 'lowShelf', 'highShelf'];
const FURTHEST_DB = 24;
/** Steps of an arrow key and of the wheel. */
const STEP_OCTAVES = 0.1;
const STEP_DB = 0.5;
const STEP_Q = 1.1;

/** The response of an equalizer over the live spectrum before and after it; bands are dragged where they work. */
export function BandPicture(props: { insert: Insert; item: number; onItem: (item: number) => void }) {
  const { insert, item, onItem } = props;
  const studio = useStudio();
  const timing = useStudioState(({ document }) => timingOf(document));
  const picture = usePicture(insert);
  const { min, max } = picture ? axesOf(picture).y : { min: -12, max: 12 };
  const spectrum = useSpectrum(insert.id, min, max);
  const moved = useMovedPicture(insert.id, 'response');
  const live = useMemo(() => [...spectrum, ...moved], [spectrum, moved]);
  const spec = specOf('eq');
  const bands = Array.from({ length: spec.lists[0]!.count }, (_, index) => index + 1);
  const isOn = (band: number) => insert.values[`bands.${band}.on`] === true;
  const setOf = (band: number, values: ParameterValues) => ({
    type: 'insert.set' as const,
    id: insert.id,
    values: Object.fromEntries(Object.entries(values).map(([id, value]) => [`bands.${band}.${id}`, value])),
  });
  const placed = (hz: number, db: number, lifts: boolean) => ({
    frequency: Number(clamp(20, 20000, hz).toPrecision(4)),
    ...(lifts ? { gain: clamp(-FURTHEST_DB, FURTHEST_DB, Number(db.toFixed(1))) } : {}),
  });
  const grips = bands.filter(isOn).map((band): Grip => {
    const parameter = (id: string) => findParameter(spec, `bands.${band}.${id}`) as NumberParameter;
    const value = (id: string) => insert.values[`bands.${band}.${id}`] as number;
    const lifts = LIFTING.includes(String(insert.values[`bands.${band}.type`]));
    const [frequency, gain] = [value('frequency'), lifts ? value('gain') : 0];
    const label = `Equalizer: band ${band}`;
    const move = (hz: number, db: number) => studio.editor.preview(setOf(band, placed(hz, db, lifts)), label);
    const q = parameter('q');
    return {
      id: String(band),
      label: `Band ${band}`,
      x: frequency,
      y: gain,
      text: `${formatValue(parameter('frequency'), frequency, timing)}${lifts ? `, ${formatValue(parameter('gain'), gain, timing)}` : ''}`,
      chosen: band === item,
      onChoose: () => onItem(band),
      onMove: move,
      onNudge: (across, up) => move(frequency * 2 ** (STEP_OCTAVES * across), gain + STEP_DB * up),
      onSettle: () => studio.editor.settle(),
      onCancel: () => studio.editor.abandon(),
      onWheel: (up) =>
        studio.editor.preview(
          setOf(band, { q: Number(clamp(q.min, q.max, value('q') * STEP_Q ** up).toPrecision(3)) }),
          `${label}, Q`,
        ),
    };
  });
  /** The first band that is out of use goes there. */
  const add = (hz: number, db: number) => {
    const free = bands.find((band) => !isOn(band));
    if (free === undefined) return;
    const values = { on: true, type: 'bell', ...placed(hz, db, true) };
    if (studio.editor.perform(setOf(free, values), `Equalizer: band ${free} on`)) onItem(free);
  };
  return (
    <CurvePicture
      picture={picture}
      height={HEIGHT}
      grips={grips}
      live={live}
      onAdd={add}
      label="Response from the engine, over the spectrum before and after"
    />
  );
}
