'use client';

import { useEffect, useRef, type KeyboardEvent } from 'react';
import type { JobResults } from '@/core/jobs/kinds';
import type { Samples } from '@/core/engine/plan';
import { specOf } from '@/core/effects/registry';
import { defaultValues, findParameter, type NumberParameter } from '@/core/effects/spec';
import { formatUnit } from '@/core/effects/units';
import type { Insert } from '@/core/session/records/inserts';
import { useStudio } from '../../session/StudioContext';
import { clearedCanvas } from '../../ui/clearedCanvas';
import { useTheme } from '../../ui/theme';
import { editAt, editPlaces, type EditHandle, type ImpulseEdits } from './impulseEdits';
import { usePointerDrag } from '../../ui/usePointerDrag';

const WAVE = { width: 600, height: 64 } as const;
const HANDLES: readonly EditHandle[] = ['start', 'end', 'fadeIn', 'fadeOut'];
const STEP_SECONDS = 0.005;
const FINER = 0.2;

const spec = specOf('convolution');
const parameterOf = (id: EditHandle) => findParameter(spec, id) as NumberParameter;

interface Props {
  readonly insert: Insert;
  readonly impulse: JobResults['impulse'] | Samples;
  readonly sampleRateHz: number;
}

/** The impulse over time, in decibels, so that its tail is seen; its ends and fades are dragged. */
export function ImpulseWave({ insert, impulse, sampleRateHz }: Props) {
  const studio = useStudio();
  const theme = useTheme();
  const canvas = useRef<HTMLCanvasElement>(null);
  const seconds = impulse.left.length / sampleRateHz;
  const edits = { ...defaultValues(spec), ...insert.values } as unknown as ImpulseEdits;
  const places = editPlaces(edits, seconds);
  useEffect(() => {
    const context = clearedCanvas(canvas.current!, WAVE.width, WAVE.height);
    const perPixel = impulse.left.length / WAVE.width;
    for (let x = 0; x < WAVE.width; x++) {
      let most = 0;
      for (let n = Math.floor(x * perPixel); n < Math.min(impulse.left.length, (x + 1) * perPixel); n++) {
        most = Math.max(most, Math.abs(impulse.left[n]!), Math.abs(impulse.right[n]!));
      }
      const tall = WAVE.height * Math.max(0, 1 + (20 * Math.log10(most + 1e-9)) / 80);
      context.fillRect(x, WAVE.height - tall, 1, tall);
    }
  }, [impulse, theme]);
  const put = (handle: EditHandle, at: number) => {
    const parameter = parameterOf(handle);
    studio.controls.turn(insert.id, parameter, editAt(handle, at, edits, seconds), `Convolution: ${parameter.name}`);
  };
  const [begin] = usePointerDrag<EditHandle, [handle: EditHandle]>({
    begin: (_, handle) => {
      studio.editor.settle();
      return handle;
    },
    move: (handle, { clientX }) => {
      const { left, width } = canvas.current!.getBoundingClientRect();
      put(handle, ((clientX - left) / width) * seconds);
    },
    end: () => studio.editor.settle(),
    cancel: () => studio.editor.abandon(),
  });
  const key = (handle: EditHandle, event: KeyboardEvent) => {
    const way = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0;
    if (way === 0) return;
    event.preventDefault();
    event.stopPropagation();
    put(handle, places[handle] + way * STEP_SECONDS * (event.shiftKey ? FINER : 1));
    studio.editor.settle();
  };
  const percent = (at: number) => `${(100 * at) / seconds}%`;
  const [early, late] = [Math.min(places.start, places.end), Math.max(places.start, places.end)];
  const value = (handle: EditHandle) => {
    const { unit } = parameterOf(handle);
    return formatUnit(unit, Number(edits[handle].toPrecision(3)));
  };
  return (
    <div className="impulse-wave">
      <canvas
        ref={canvas}
        role="img"
        aria-label={`Level of the impulse over its ${seconds.toFixed(2)} seconds, down to 80 decibels below full scale`}
      />
      <i className="impulse-cut" style={{ left: 0, width: percent(early) }} />
      <i className="impulse-cut" style={{ left: percent(late), right: 0 }} />
      <svg viewBox={`0 0 ${seconds} 1`} preserveAspectRatio="none" aria-hidden="true">
        <path
          d={`M${places.reversed ? late : early} 1L${places.fadeIn} 0L${places.fadeOut} 0L${places.reversed ? early : late} 1`}
        />
      </svg>
      {HANDLES.map((handle) => (
        <span
          key={handle}
          className={`impulse-handle impulse-${handle}`}
          style={{ left: percent(places[handle]) }}
          role="slider"
          tabIndex={0}
          aria-label={`${parameterOf(handle).name} of the impulse`}
          aria-valuemin={parameterOf(handle).min}
          aria-valuemax={parameterOf(handle).max}
          aria-valuenow={edits[handle]}
          aria-valuetext={value(handle)}
          title={`${parameterOf(handle).name} ${value(handle)}: drag it, or use the arrow keys`}
          onPointerDown={(event) => begin(event, handle)}
          onKeyDown={(event) => key(handle, event)}
        />
      ))}
      <span className="impulse-scale">{seconds.toFixed(2)} s, down to −80 dB</span>
    </div>
  );
}
