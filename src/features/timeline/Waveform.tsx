'use client';

import { memo, useEffect, useMemo, useRef } from 'react';
import { clearedCanvas } from '../ui/clearedCanvas';
import { PEAK_FRAMES } from '@/core/analysis/peaks';

interface Props {
  readonly peaks: Int8Array | undefined;
  readonly sampleRateHz: number;
  readonly offsetSeconds: number;
  readonly lengthSeconds: number;
  readonly reversed: boolean;
  readonly gain: number;
  readonly width: number;
  readonly height: number;
}

/** Columns of the widest wave that is drawn; wider ones are stretched. */
const WIDEST = 8000;

/**
 * The sound of a clip between its lowest and highest samples, from the peaks the server keeps. A shape rather than a
 * canvas: each canvas is a layer of its own, and a view with a hundred of them moves slowly.
 */
export const Waveform = memo(function Waveform(props: Props) {
  const { peaks, sampleRateHz, offsetSeconds, lengthSeconds, reversed, gain, width, height } = props;
  const pixels = Math.max(1, Math.min(WIDEST, Math.round(width)));
  const shape = useMemo(() => {
    if (!peaks) return '';
    const slots = peaks.length / 2;
    const first = (offsetSeconds * sampleRateHz) / PEAK_FRAMES;
    const perPixel = (lengthSeconds * sampleRateHz) / PEAK_FRAMES / pixels;
    const middle = height / 2;
    const [tops, bottoms]: [string[], string[]] = [[], []];
    for (let x = 0; x < pixels; x++) {
      const slot = reversed ? pixels - 1 - x : x;
      const from = Math.floor(first + slot * perPixel);
      const to = Math.max(from + 1, Math.floor(first + (slot + 1) * perPixel));
      let low = 127;
      let high = -127;
      for (let n = Math.max(0, from); n < Math.min(slots, to); n++) {
        low = Math.min(low, peaks[n * 2]!);
        high = Math.max(high, peaks[n * 2 + 1]!);
      }
      if (low > high) [low, high] = [0, 0];
      const top = middle - Math.min(1, (high / 127) * gain) * middle;
      const bottom = middle - Math.max(-1, (low / 127) * gain) * middle;
      tops.push(`${x} ${Math.min(top, middle - 0.5).toFixed(1)}`);
      bottoms.push(`${x} ${Math.max(bottom, middle + 0.5).toFixed(1)}`);
    }
    return `M${tops.join('L')}L${bottoms.reverse().join('L')}Z`;
  }, [peaks, sampleRateHz, offsetSeconds, lengthSeconds, reversed, gain, pixels, height]);
  return (
    <svg
      className="waveform"
      width={width}
      height={height}
      viewBox={`0 0 ${pixels} ${height}`}
      preserveAspectRatio="none"
      aria-hidden="true"
    >
      <path d={shape} />
    </svg>
  );
});

interface GrowingProps {
  /** The sound so far, which grows backwards from the landing. */
  readonly left: Float32Array;
  readonly right: Float32Array;
  /** Part of it that is there, 0 to 1. */
  readonly done: number;
  readonly width: number;
  readonly height: number;
  readonly theme: string;
}

/** A swell as far as it has been computed: from its landing back. */
export function GrowingWave({ left, right, done, width, height, theme }: GrowingProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const pixels = Math.max(1, Math.min(WIDEST, Math.round(width)));
  useEffect(() => {
    const context = clearedCanvas(canvas.current!, pixels, height);
    const perPixel = left.length / pixels;
    const middle = height / 2;
    for (let x = 0; x < pixels * done; x++) {
      let most = 0;
      for (let n = Math.floor(x * perPixel); n < Math.min(left.length, (x + 1) * perPixel); n++) {
        most = Math.max(most, Math.abs(left[n]!), Math.abs(right[n]!));
      }
      const tall = Math.max(1, Math.min(1, most) * height);
      context.fillRect(pixels - 1 - x, middle - tall / 2, 1, tall);
    }
  }, [left, right, done, pixels, height, theme]);
  return <canvas ref={canvas} className="waveform" style={{ width, height }} aria-hidden="true" />;
}
