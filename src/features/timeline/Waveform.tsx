'use client';

import { useEffect, useRef } from 'react';
import { PEAK_FRAMES } from '@/core/analysis/peaks';

interface Props {
  readonly peaks: Int8Array | undefined;
  readonly sampleRateHz: number;
  readonly offsetSeconds: number;
  readonly lengthSeconds: number;
  readonly gain: number;
  readonly width: number;
  readonly height: number;
  readonly theme: string;
}

const WIDEST = 8000;

/** The sound of a clip between its lowest and highest samples, from the peaks the server keeps. */
export function Waveform({ peaks, sampleRateHz, offsetSeconds, lengthSeconds, gain, width, height, theme }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const pixels = Math.max(1, Math.min(WIDEST, Math.round(width)));
  useEffect(() => {
    const element = canvas.current!;
    const scale = window.devicePixelRatio || 1;
    element.width = pixels * scale;
    element.height = height * scale;
    const context = element.getContext('2d')!;
    context.scale(scale, scale);
    context.clearRect(0, 0, pixels, height);
    if (!peaks) return;
    context.fillStyle = getComputedStyle(element).color;
    const slots = peaks.length / 2;
    const first = (offsetSeconds * sampleRateHz) / PEAK_FRAMES;
    const perPixel = (lengthSeconds * sampleRateHz) / PEAK_FRAMES / pixels;
    const middle = height / 2;
    for (let x = 0; x < pixels; x++) {
      const from = Math.floor(first + x * perPixel);
      const to = Math.max(from + 1, Math.floor(first + (x + 1) * perPixel));
      let low = 127;
      let high = -127;
      for (let slot = Math.max(0, from); slot < Math.min(slots, to); slot++) {
        low = Math.min(low, peaks[slot * 2]!);
        high = Math.max(high, peaks[slot * 2 + 1]!);
      }
      if (low > high) continue;
      const top = middle - Math.min(1, (high / 127) * gain) * middle;
      const bottom = middle - Math.max(-1, (low / 127) * gain) * middle;
      context.fillRect(x, Math.min(top, middle - 0.5), 1, Math.max(1, bottom - top));
    }
  }, [peaks, sampleRateHz, offsetSeconds, lengthSeconds, gain, pixels, height, theme]);
  return <canvas ref={canvas} className="waveform" style={{ width, height }} aria-hidden="true" />;
}
