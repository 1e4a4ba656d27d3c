'use client';

import { formatValue } from '@/core/effects/parameterText';
import { effectById } from '@/core/effects/registry';
import { findParameter, type NumberParameter } from '@/core/effects/spec';
import type { Insert } from '@/core/session/records';
import { timingOf } from '@/core/session/records';
import { useStudio, useStudioState } from '../session/StudioContext';
import { axesOf } from './axes';
import { SpectrumPaths } from '../ui/SpectrumPaths';
import { CurvePicture, PLOT_WIDTH, plotHeight, type Grip } from './CurvePicture';
import { usePicture } from './pictures';

/** Taller than other pictures: most of the work is done in it. */
const HEIGHT = 400;
const LIFTING = ['bell', 'lowShelf', 'highShelf'];

/** The response of an equalizer over the live spectrum before and after it; bands are dragged where they work. */
export function BandPicture(props: { insert: Insert; item: number; onItem: (item: number) => void }) {
  const { insert, item, onItem } = props;
  const studio = useStudio();
  const timing = useStudioState(({ document }) => timingOf(document));
  const picture = usePicture(insert);
  const spec = effectById('eq');
  const { count } = spec.lists[0]!;
  const axes = picture && axesOf(picture);
  const grips: Grip[] = axes
    ? Array.from({ length: count }, (_, index) => index + 1)
        .filter((band) => insert.values[`bands.${band}.on`] === true)
        .map((band) => {
          const parameter = (id: string) => findParameter(spec, `bands.${band}.${id}`) as NumberParameter;
          const frequency = insert.values[`bands.${band}.frequency`] as number;
          const gain = insert.values[`bands.${band}.gain`] as number;
          const lifts = LIFTING.includes(String(insert.values[`bands.${band}.type`]));
          const reach = axes.y.ticks.at(-1)![0];
          const x = axes.x.place(frequency);
          const y = lifts ? axes.y.place(gain) : 0.5;
          const words = `${formatValue(parameter('frequency'), frequency, timing)}${lifts ? `, ${formatValue(parameter('gain'), gain, timing)}` : ''}`;
          const move = (toX: number, toY: number) => {
            const hz = Number((20 * 1000 ** Math.min(1, Math.max(0, toX))).toPrecision(4));
            const db = Number(((Math.min(1, Math.max(0, toY)) * 2 - 1) * reach).toFixed(1));
            studio.preview(
              {
                type: 'insert.set',
                id: insert.id,
                values: {
                  [`bands.${band}.frequency`]: hz,
                  ...(lifts ? { [`bands.${band}.gain`]: Math.min(24, Math.max(-24, db)) } : {}),
                },
              },
              `Equalizer: band ${band}`,
            );
          };
          return {
            id: String(band),
            label: `Band ${band}`,
            x,
            y,
            text: words,
            chosen: band === item,
            onChoose: () => onItem(band),
            onMove: move,
            onNudge: (across, up) => move(x + across, y + up),
            onSettle: () => studio.settle(),
          };
        })
    : [];
  return (
    <CurvePicture
      picture={picture}
      height={HEIGHT}
      grips={grips}
      label="Response from the engine, over the spectrum before and after"
      behind={<SpectrumPaths targetId={insert.id} width={PLOT_WIDTH} height={plotHeight(HEIGHT)} />}
    />
  );
}
