'use client';

import { memo, useEffect, useMemo, useRef } from 'react';
import { clearedCanvas } from '../ui/clearedCanvas';
import { outlineOf, outlineOfPeaks } from '@/core/analysis/outline';
import { PEAK_FRAMES } from '@/core/analysis/peaks';
import { clamp } from '@/core/math/clamp';
import { useStretch } from '../session/useStretch';

interface Props {
  /** Null where there is no sound to draw closely. */
  readonly soundId: string | null;
  readonly peaks: Int8Array | undefined;
  /** Rates of the file, of which the peaks are, and of the session. */
  readonly fileRateHz: number;
  readonly rateHz: number;
  readonly offsetSeconds: number;
  readonly lengthSeconds: number;
  readonly reversed: boolean;
  readonly gain: number;
  readonly width: number;
  readonly height: number;
  /** Part of the width that is drawn, in pixels. */
  readonly from: number;
  readonly to: number;
}

/** Columns of the widest wave that is drawn as a whole; of wider ones it is the part in sight. */
export const WIDEST = 8000;
/** Pixels a frame from which on the samples are joined by a line. */
const SINGLE = 2;

/**
 * The sound of a clip between its lowest and highest samples: from the peaks the server keeps, closer from the samples
 * themselves. A shape rather than a canvas: each canvas is a layer of its own, and a view with a hundred of them moves slowly.
 */
export const Waveform = memo(function Waveform(props: Props) {
  const { soundId, peaks, fileRateHz, rateHz, offsetSeconds, lengthSeconds, reversed, gain, width, height } = props;
  const { from, to } = props;
  const columns = Math.max(1, Math.round(to - from));
  const perColumn = (lengthSeconds * rateHz * (to - from)) / width / columns;
  // A reversed clip is drawn from its last column on.
  const beginPart = (reversed ? width - to : from) / width;
  const begin = (offsetSeconds + beginPart * lengthSeconds) * rateHz;
  const isClose = perColumn < PEAK_FRAMES && soundId !== null;
  const last = Math.ceil(begin + columns * perColumn) + 1;
  const stretch = useStretch(isClose ? soundId : null, Math.max(0, Math.floor(begin)), last);
  const isLine = stretch !== null && perColumn * SINGLE < 1;
  const shape = useMemo(() => {
    const heightOf = (value: number) => (height / 2) * (1 - clamp(-1, 1, value * gain));
    if (stretch && isLine) {
      const xOf = (frame: number) => {
        const x = (frame + 0.5 - begin) / perColumn;
        return (reversed ? columns - x : x).toFixed(1);
      };
      return stretch.sides
        .map((side) => {
          const corners: string[] = [];
          const end = Math.min(side.length, last - stretch.first);
          for (let n = Math.max(0, Math.floor(begin) - stretch.first); n < end; n++)
            corners.push(`${xOf(stretch.first + n)} ${heightOf(side[n]!).toFixed(1)}`);
          return corners.length > 0 ? `M${corners.join('L')}` : '';
        })
        .join('');
    }
    if (!stretch && !peaks) return '';
    const pairs = stretch
      ? outlineOf(stretch, begin, perColumn, columns)
      : outlineOfPeaks(peaks!, (PEAK_FRAMES * rateHz) / fileRateHz, begin, perColumn, columns);
    const [tops, bottoms]: [string[], string[]] = [[], []];
    for (let x = 0; x < columns; x++) {
      const column = reversed ? columns - 1 - x : x;
      tops.push(`${x} ${Math.min(heightOf(pairs[2 * column + 1]!), height / 2 - 0.5).toFixed(1)}`);
      bottoms.push(`${x} ${Math.max(heightOf(pairs[2 * column]!), height / 2 + 0.5).toFixed(1)}`);
    }
    return `M${tops.join('L')}L${bottoms.reverse().join('L')}Z`;
  }, [stretch, isLine, peaks, fileRateHz, rateHz, begin, last, perColumn, columns, reversed, gain, height]);
  return (
    <svg
      className={`waveform ${isLine ? 'waveform-line' : ''}`}
      style={{ left: from }}
      width={columns}
      height={height}
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
