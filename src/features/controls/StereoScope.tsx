'use client';

import { useRef, useState } from 'react';
import {
  centreHz,
  crossSpectra,
  fieldOf,
  type CrossSpectra,
  type FieldBand,
  type StereoField,
} from '@/core/analysis/stereoField';
import type { Probe } from '@/core/engine/probe';
import { useStudio, useStudioState } from '../session/StudioContext';
import { minus } from '../ui/axes';
import { clearedCanvas } from '../ui/clearedCanvas';
import { useFrame } from '../ui/useFrame';
import { useProbe } from './useProbe';

const SIZE = 168;
/** Frames of sound that are drawn, and measured. */
const DRAWN = 800;
const MEASURED = 8192;
/** Display frames between two looks at the figures, which could not be read any faster. */
const FRAMES_APART = 15;
/** As far as the balance is drawn, in decibels. */
const FURTHEST_TILT = 12;

/** Both sides before and after something, as they are now. */
export interface FieldNow {
  readonly before: CrossSpectra;
  readonly field: StereoField;
}

interface Props {
  readonly targetId: string;
  /** Name for screen readers. */
  readonly label: string;
  /** Told the field every quarter of a second while something sounds. */
  readonly onField?: (now: FieldNow) => void;
}

/**
 * The field between left and right, live: what comes in and what goes out point by point, middle upwards and sides
 * across; correlation by octave, balance and what is lost in mono.
 */
export function StereoScope({ targetId, label, onField }: Props) {
  const studio = useStudio();
  const rate = useStudioState(({ document }) => document.session.sampleRateHz);
  const probe = useProbe(targetId);
  const before = useRef<HTMLCanvasElement>(null);
  const after = useRef<HTMLCanvasElement>(null);
  const seen = useRef(-1);
  const frame = useRef(0);
  const due = useRef(0);
  const [field, setField] = useState<StereoField | null>(null);
  useFrame(() => {
    const now = probe.current;
    // Every other frame is as much as can be seen of points.
    if (!now || now.written === seen.current || frame.current++ % 2 !== 0) return;
    seen.current = now.written;
    for (const [canvas, ring] of [
      [before.current, 0],
      [after.current, 2],
    ] as const) {
      if (canvas) drawPoints(canvas, newest(now, ring, DRAWN));
    }
    if (frame.current < due.current || !studio.engine.playing) return;
    due.current = frame.current + FRAMES_APART;
    const spectra = (ring: number) => crossSpectra(...newest(now, ring, MEASURED), rate);
    const next = fieldOf(spectra(2));
    setField(next);
    onField?.({ before: spectra(0), field: next });
  });
  return (
    <figure className="stereo-scope" role="group" aria-label={label}>
      <div className="scope-points" role="img" aria-label={`${label}: middle upwards, sides across, live`}>
        <canvas ref={before} className="scope-before" style={{ width: SIZE, height: SIZE }} />
        <canvas ref={after} className="scope-after" style={{ width: SIZE, height: SIZE }} />
        <span className="scope-left">left</span>
        <span className="scope-right">right</span>
      </div>
      <Balance tiltDb={field?.tiltDb ?? null} />
      <Bands bands={field?.octaves ?? []} />
      <dl className="scope-figures">
        <dt>Correlation</dt>
        <dd>{shown(field?.correlation, (value) => minus(value.toFixed(2)))}</dd>
        <dt>Lost in mono</dt>
        <dd>{shown(field?.monoLossDb, (value) => `${value.toFixed(1)} dB`)}</dd>
        <dt>Worst third-octave</dt>
        <dd>{field?.worst ? `${field.worst.monoLossDb!.toFixed(1)} dB, ${centreOf(field.worst)} Hz` : '–'}</dd>
      </dl>
    </figure>
  );
}

const shown = (value: number | null | undefined, word: (value: number) => string) =>
  value === null || value === undefined ? '–' : word(value);
const centreOf = (band: FieldBand) => Number(centreHz(band).toPrecision(2));

/** The newest frames of both sides: before from ring 0 on, after from ring 2 on. */
function newest(probe: Probe, ring: number, frames: number): [Float32Array, Float32Array] {
  const sides: [Float32Array, Float32Array] = [new Float32Array(frames), new Float32Array(frames)];
  probe.newest(ring, sides[0]);
  probe.newest(ring + 1, sides[1]);
  return sides;
}

function drawPoints(canvas: HTMLCanvasElement, [left, right]: readonly [Float32Array, Float32Array]): void {
  const context = clearedCanvas(canvas, SIZE, SIZE);
  let peak = 0.05;
  for (let n = 0; n < left.length; n++) peak = Math.max(peak, Math.abs(left[n]!), Math.abs(right[n]!));
  const scale = (SIZE / 2 - 6) / (2 * peak);
  context.beginPath();
  for (let n = 0; n < left.length; n++) {
    const across = (right[n]! - left[n]!) * scale;
    const up = (left[n]! + right[n]!) * scale;
    context.rect(SIZE / 2 + across - 0.6, SIZE / 2 - up - 0.6, 1.2, 1.2);
  }
  context.fill();
}

/** Balance between left and right. */
function Balance({ tiltDb }: { readonly tiltDb: number | null }) {
  const at = tiltDb === null ? 0 : Math.max(-1, Math.min(1, -tiltDb / FURTHEST_TILT));
  const words =
    tiltDb === null
      ? 'Balance: silence'
      : Math.abs(tiltDb) < 0.1
        ? 'Balance: even'
        : `Balance: ${Math.abs(tiltDb).toFixed(1)} dB to the ${tiltDb > 0 ? 'left' : 'right'}`;
  return (
    <>
      <div className="scope-balance" role="img" aria-label={words} title={words}>
        <i style={{ left: `${50 + at * 50}%` }} hidden={tiltDb === null} />
      </div>
      <div className="scope-ends" aria-hidden="true">
        <span>{FURTHEST_TILT} dB left</span>
        <span>balance</span>
        <span>right</span>
      </div>
    </>
  );
}

/** Correlation by octave: up is mono, the line is wide, down cancels. */
function Bands({ bands }: { readonly bands: readonly FieldBand[] }) {
  const words = bands
    .filter(({ correlation }) => correlation !== null)
    .map((band) => `${centreOf(band)} Hz ${minus(band.correlation!.toFixed(1))}`);
  return (
    <>
      <div className="scope-bands" role="img" aria-label={`Correlation by octave: ${words.join(', ') || 'silence'}`}>
        {bands.map((band) => (
          <span key={band.fromHz} title={`${centreOf(band)} Hz`}>
            <i
              className={(band.correlation ?? 0) < 0 ? 'scope-against' : undefined}
              style={{
                top: `${50 - 50 * Math.max(0, band.correlation ?? 0)}%`,
                height: `${50 * Math.abs(band.correlation ?? 0)}%`,
              }}
            />
          </span>
        ))}
        <small>+1</small>
        <small>−1</small>
      </div>
      <div className="scope-ends" aria-hidden="true">
        <span>low</span>
        <span>correlation by octave</span>
        <span>high</span>
      </div>
    </>
  );
}
