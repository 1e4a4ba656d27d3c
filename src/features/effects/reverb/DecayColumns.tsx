'use client';

import { useState, type KeyboardEvent } from 'react';
import type { RoomMeasures } from '@/core/dsp/decay';
import { OCTAVES_HZ } from '@/core/dsp/octaveBands';
import { octavesAt } from '@/core/dsp/octaves';
import { formatUnit, readFigure } from '@/core/effects/units';
import { decayInWords, octaveAxis, secondsAxis } from '../pictures/DecayChart';
import { Chart, placeOnPlot, type ChartLine, type Plot } from '../../ui/Chart';
import { EditableText } from '../../ui/EditableText';
import { usePointerDrag } from '../../ui/usePointerDrag';
import { tilted, withFactor, type FactorRange } from './octaveTargets';

interface Props {
  readonly measured: RoomMeasures | null;
  /** Decay of the whole in seconds. */
  readonly decay: number;
  /** Targets by octave, as parts of the decay. */
  readonly factors: readonly number[];
  readonly range: FactorRange;
  readonly sampleRateHz: number;
  readonly height: number;
  readonly onChange: (factors: readonly number[]) => void;
  readonly onSettle: () => void;
  /** A drag is taken back. */
  readonly onCancel: () => void;
}

/** Key steps. */
const STEP = 1.04;
const FINER = 0.25;
const NO_LINES: readonly ChartLine[] = [];
const short = (value: number) => Number(value.toPrecision(3));
const secondsText = (value: number) => formatUnit('s', short(value));
const stepOf = ({ key, shiftKey }: KeyboardEvent): number | null => {
  const by = STEP ** (shiftKey ? FINER : 1);
  return key === 'ArrowUp' ? by : key === 'ArrowDown' ? 1 / by : null;
};

/**
 * Decay of a reverb octave by octave, as a report on a room draws it: its measured bar, and its target as a bracket that
 * is dragged or typed over. Handles at both ends tilt the lows and the highs about 1 kHz.
 */
export function DecayColumns(props: Props) {
  const { measured, decay, factors, sampleRateHz, height } = props;
  const found = new Map((measured?.octaves ?? []).map(({ centreHz, t30 }) => [centreHz, t30]));
  const longest = Math.max(0.2, decay * Math.max(...factors), ...[...found.values()].map((one) => one ?? 0));
  // The axis does not move under a target that is dragged.
  const [held, setHeld] = useState<number | null>(null);
  const whole = octavesAt(sampleRateHz);
  return (
    <Chart
      x={octaveAxis}
      y={secondsAxis(Math.max(held ?? 0, longest))}
      lines={NO_LINES}
      height={height}
      label={decayInWords(measured)}
      over={(plot) => (
        <>
          {OCTAVES_HZ.map((hz) => (
            <MeasuredBar key={hz} plot={plot} hz={hz} seconds={found.get(hz) ?? null} isWhole={whole.includes(hz)} />
          ))}
          <Targets {...props} plot={plot} onHold={(isHeld) => setHeld(isHeld ? longest : null)} />
        </>
      )}
    />
  );
}

/** Width of an octave's column on a plot, in pixels. */
const columnOf = (plot: Plot, hz: number) => 0.66 * (plot.toX(hz) - plot.toX(hz / 2));

function MeasuredBar(props: { plot: Plot; hz: number; seconds: number | null; isWhole: boolean }) {
  const { plot, hz, seconds, isWhole } = props;
  const bottom = plot.toY(0);
  const top = seconds === null ? bottom : plot.toY(seconds);
  const width = columnOf(plot, hz);
  const style = { left: plot.toX(hz) - width / 2, width };
  if (!isWhole) {
    return (
      <span
        className="octave-beyond"
        style={{ ...style, bottom: `calc(100% - ${bottom}px)` }}
        title="The sample rate of the session does not hold this octave whole: it is not measured."
      >
        above the rate
      </span>
    );
  }
  return <span className="octave-bar" style={{ ...style, top, height: Math.max(0, bottom - top) }} />;
}

function Targets(props: Props & { readonly plot: Plot; readonly onHold: (isHeld: boolean) => void }) {
  const { plot, decay, factors, range, onChange, onSettle, onCancel, onHold } = props;
  const secondsAt = (event: { clientX: number; clientY: number; currentTarget: Element }) =>
    Math.max(0, placeOnPlot(plot, event)[1]);
  const ended = (act: () => void) => () => {
    onHold(false);
    act();
  };
  const began = (): readonly number[] => {
    onHold(true);
    return factors;
  };
  const [beginTarget] = usePointerDrag<{ octave: number; before: readonly number[] }, [octave: number]>({
    begin: (_, octave) => ({ octave, before: began() }),
    move: ({ octave, before }, point) => onChange(withFactor(before, octave, secondsAt(point) / decay, range)),
    end: ended(onSettle),
    cancel: ended(onCancel),
  });
  const [beginTilt] = usePointerDrag<{ end: End; before: readonly number[] }, [end: End]>({
    begin: (_, end) => ({ end, before: began() }),
    move: ({ end, before }, point) => {
      const ratio = secondsAt(point) / (decay * before[ENDS[end].octave]!);
      onChange(tilted(before, end, Math.max(0.01, ratio), range));
    },
    end: ended(onSettle),
    cancel: ended(onCancel),
  });
  const onKey = (change: (by: number) => readonly number[]) => (event: KeyboardEvent) => {
    const by = stepOf(event);
    if (by === null) return;
    event.preventDefault();
    onChange(change(by));
    onSettle();
  };
  const valuesOf = (octave: number) => ({
    role: 'slider',
    tabIndex: 0,
    'aria-orientation': 'vertical' as const,
    'aria-valuemin': short(decay * range.min),
    'aria-valuemax': short(decay * range.max),
    'aria-valuenow': short(decay * factors[octave]!),
    'aria-valuetext': secondsText(decay * factors[octave]!),
  });
  return (
    <>
      {OCTAVES_HZ.map((hz, octave) => {
        const seconds = decay * factors[octave]!;
        const name = formatUnit('Hz', hz);
        const width = columnOf(plot, hz) + 8;
        const type = (text: string) => {
          const typed = readFigure('s', text);
          if (typed === undefined) return;
          onChange(withFactor(factors, octave, typed / decay, range));
          onSettle();
        };
        return (
          <div key={hz} className="octave-target" style={{ left: plot.toX(hz), top: plot.toY(seconds), width }}>
            <EditableText
              label={`Target at ${name} in seconds`}
              text={String(short(seconds))}
              width={width}
              onTyped={type}
            />
            <span
              {...valuesOf(octave)}
              className="octave-bracket"
              aria-label={`Decay target at ${name}`}
              title={`Target at ${name}: ${secondsText(seconds)}. Drag it, use the arrow keys, or type over the figure.`}
              onKeyDown={onKey((by) => withFactor(factors, octave, factors[octave]! * by, range))}
              onPointerDown={(event) => beginTarget(event, octave)}
            />
          </div>
        );
      })}
      {(Object.keys(ENDS) as End[]).map((end) => {
        const { octave, hz, name, side } = ENDS[end];
        const place = { left: plot.toX(hz) + side * (columnOf(plot, hz) / 2 + 12) };
        return (
          <span
            {...valuesOf(octave)}
            key={end}
            className={`octave-tilt octave-tilt-${end}`}
            style={{ ...place, top: plot.toY(decay * factors[octave]!) }}
            aria-label={`Tilt the ${end} of the decay`}
            title={`Tilts the decay ${name} about 1 kHz: drag it, or use the arrow keys`}
            onKeyDown={onKey((by) => tilted(factors, end, by, range))}
            onPointerDown={(event) => beginTilt(event, end)}
          />
        );
      })}
    </>
  );
}

const ENDS = {
  lows: { octave: 0, hz: 63, name: 'below', side: -1 },
  highs: { octave: 8, hz: 16000, name: 'above', side: 1 },
} as const;
type End = keyof typeof ENDS;
