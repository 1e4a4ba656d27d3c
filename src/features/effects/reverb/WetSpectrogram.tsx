'use client';

import { useEffect, useRef, useState, type PointerEvent } from 'react';
import { SpectrumReader } from '@/core/analysis/spectrum';
import { PROBE_FRAMES, type Probe } from '@/core/engine/probe';
import type { Insert } from '@/core/session/records/inserts';
import { useStudio } from '../../session/StudioContext';
import { formatUnit } from '@/core/effects/units';
import { minus } from '../../ui/axes';
import { useTheme } from '../../ui/theme';
import { useFrame } from '../../ui/useFrame';

const WIDTH = 480;
const ROWS = 96;
const SIZE = 4096;
const LOWEST_HZ = 50;
const HIGHEST_HZ = 16000;
const FLOOR_DB = -90;
/** From this level on the ink is full. */
const FULL_DB = -24;
const MARKS = [100, 1000, 10000];

/** Part of the height, from the bottom, of a frequency. */
const placeOf = (hz: number) => Math.log(hz / LOWEST_HZ) / Math.log(HIGHEST_HZ / LOWEST_HZ);
const hzAt = (part: number) => LOWEST_HZ * (HIGHEST_HZ / LOWEST_HZ) ** part;

/** Spectrogram of an effect's wet sound over the last seconds: frequency upward, the newest at the right. */
export function WetSpectrogram({ insert }: { readonly insert: Insert }) {
  const studio = useStudio();
  const theme = useTheme();
  const canvas = useRef<HTMLCanvasElement>(null);
  const watched = useRef<Probe | null>(null);
  const reader = useRef<SpectrumReader | null>(null);
  const wet = useRef([new Float32Array(SIZE), new Float32Array(SIZE)] as const);
  const seen = useRef(0);
  const [isEmpty, setIsEmpty] = useState(true);
  const [reading, setReading] = useState<string | null>(null);
  const mix = Number(insert.values.mix) / 100;
  // Dry and wet are mixed at equal power: what is left of the dry sound is known and taken out.
  const dry = mix >= 1 ? 0 : Math.cos((mix * Math.PI) / 2);

  useEffect(() => {
    const { probe, end } = studio.engine.watch(insert.id);
    watched.current = probe;
    return end;
  }, [studio, insert.id]);
  useEffect(() => {
    const element = canvas.current!;
    element.getContext('2d')!.clearRect(0, 0, element.width, element.height);
  }, [theme]);

  useFrame(() => {
    const probe = watched.current;
    const element = canvas.current;
    if (!probe || !element || probe.written === seen.current) return;
    seen.current = probe.written;
    const [beforeLeft, beforeRight, afterLeft, afterRight] = probe.rings;
    const mask = PROBE_FRAMES - 1;
    for (let n = 0; n < SIZE; n++) {
      const at = (probe.written - SIZE + n) & mask;
      wet.current[0][n] = afterLeft![at]! - dry * beforeLeft![at]!;
      wet.current[1][n] = afterRight![at]! - dry * beforeRight![at]!;
    }
    reader.current ??= new SpectrumReader(SIZE);
    const bins = reader.current.read(wet.current[0], wet.current[1], SIZE);
    const context = element.getContext('2d')!;
    context.globalCompositeOperation = 'copy';
    context.drawImage(element, -1, 0);
    context.globalCompositeOperation = 'source-over';
    context.fillStyle = getComputedStyle(element).color;
    const perHz = SIZE / studio.state.document.session.sampleRateHz;
    const step = (HIGHEST_HZ / LOWEST_HZ) ** (1 / ROWS);
    let loudest = FLOOR_DB;
    for (let row = 0; row < ROWS; row++) {
      const hz = LOWEST_HZ * step ** row;
      const from = Math.min(bins.length - 1, Math.floor(hz * perHz));
      const to = Math.min(bins.length, Math.max(from + 1, Math.ceil(hz * step * perHz)));
      let most = FLOOR_DB;
      for (let bin = from; bin < to; bin++) most = Math.max(most, bins[bin]!);
      loudest = Math.max(loudest, most);
      context.globalAlpha = Math.min(1, (most - FLOOR_DB) / (FULL_DB - FLOOR_DB));
      context.fillRect(WIDTH - 1, ROWS - 1 - row, 1, 1);
    }
    context.globalAlpha = 1;
    if (isEmpty && loudest > FLOOR_DB) setIsEmpty(false);
  });
  /** The ink tells the level that it was drawn from. */
  const read = ({ clientX, clientY, currentTarget }: PointerEvent<HTMLCanvasElement>) => {
    const box = currentTarget.getBoundingClientRect();
    const [across, up] = [(clientX - box.left) / box.width, 1 - (clientY - box.top) / box.height];
    const [column, row] = [Math.floor(across * WIDTH), Math.floor((1 - up) * ROWS)];
    const alpha = currentTarget.getContext('2d')!.getImageData(column, row, 1, 1).data[3]! / 255;
    const db = Math.round(FLOOR_DB + alpha * (FULL_DB - FLOOR_DB));
    const level = alpha === 0 ? `under ${FLOOR_DB} dB` : alpha === 1 ? `${FULL_DB} dB or more` : `${db} dB`;
    setReading(`${formatUnit('Hz', Number(hzAt(up).toPrecision(2)))}: ${minus(level)}`);
  };
  return (
    <figure className="spectrogram">
      <canvas
        ref={canvas}
        width={WIDTH}
        height={ROWS}
        onPointerMove={read}
        onPointerLeave={() => setReading(null)}
        role="img"
        aria-label="Spectrogram of the wet sound while it plays: frequency upward, the newest at the right"
      />
      {MARKS.map((hz) => (
        <span key={hz} style={{ bottom: `${100 * placeOf(hz)}%` }}>
          {hz < 1000 ? hz : `${hz / 1000}k`}
        </span>
      ))}
      <figcaption>{reading ?? `Wet spectrogram (right = now)${isEmpty ? ': press Play' : ''}`}</figcaption>
    </figure>
  );
}
