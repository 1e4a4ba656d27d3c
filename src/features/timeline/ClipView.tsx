'use client';

import { useRef, type KeyboardEvent, type PointerEvent } from 'react';
import { dbToGain } from '@/core/math/elementary';
import { assetOf, soundOf } from '@/core/session/prints';
import type { Clip } from '@/core/session/records';
import { useStudio, useStudioState } from '../session/StudioContext';
import { useTheme } from '../ui/theme';
import { dragCommand, gridOf, type Handle } from './geometry';
import { Waveform } from './Waveform';

/** A clip: drag it to move it, its edges to trim, the corners at its top to fade. */
export function ClipView({ clip, lane, frozen }: { clip: Clip; lane: number; frozen: boolean }) {
  const height = lane - 10;
  const studio = useStudio();
  const { document, pixelsPerBeat, selected, peaks } = useStudioState((state) => ({
    document: state.document,
    pixelsPerBeat: state.pixelsPerBeat,
    selected: state.clipIds.includes(clip.id),
    peaks: state.peaks[soundOf(state.document, clip.source) ?? ''],
  }));
  const theme = useTheme();
  const drag = useRef<{ handle: Handle; x: number; y: number; begun: boolean; from: typeof document } | null>(null);
  const perSecond = (pixelsPerBeat * document.session.tempoBpm) / 60;
  const width = clip.lengthSeconds * perSecond;
  const asset = assetOf(document, clip);

  const onPointerDown = (handle: Handle, event: PointerEvent<HTMLElement>) => {
    if (event.button !== 0) return;
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    if (!selected || event.shiftKey) studio.selectClip(clip.id, event.shiftKey);
    drag.current = { handle, x: event.clientX, y: event.clientY, begun: false, from: document };
  };

  const onPointerMove = (event: PointerEvent<HTMLElement>) => {
    const now = drag.current;
    if (!now) return;
    const dx = event.clientX - now.x;
    const dy = event.clientY - now.y;
    if (!now.begun && Math.abs(dx) < 3 && Math.abs(dy) < 8) return;
    now.begun = true;
    const ids = studio.state.clipIds.includes(clip.id) ? studio.state.clipIds : [clip.id];
    const command = dragCommand(now.from, {
      handle: now.handle,
      clip: now.from.clips[clip.id]!,
      moving: ids.map((id) => now.from.clips[id]!),
      deltaBeats: dx / pixelsPerBeat,
      deltaLanes: Math.round(dy / lane),
      grid: event.altKey ? 0 : gridOf(studio.state.snap, now.from),
    });
    studio.preview(command, `${now.handle === 'body' ? 'Move' : 'Trim'} ${clip.name}`);
  };

  const onPointerUp = () => {
    if (drag.current?.begun) studio.settle();
    drag.current = null;
  };

  const onKeyDown = (event: KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === 'Enter') {
      studio.selectClip(clip.id, event.shiftKey);
    } else if (event.key.startsWith('Arrow')) {
      if (!selected) studio.selectClip(clip.id, false);
      const grid = gridOf(studio.state.snap, document) || 0.05;
      const across = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0;
      const down = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
      const moving = selected ? studio.state.clipIds.map((id) => document.clips[id]!) : [clip];
      const command = dragCommand(document, {
        handle: 'body',
        clip,
        moving,
        deltaBeats: across * grid,
        deltaLanes: down,
        grid: 0,
      });
      studio.perform(command, `Move ${clip.name}`);
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };

  const handle = (name: Handle, style?: { left?: number; right?: number }) => (
    <span
      className={`clip-handle clip-${name}`}
      style={style}
      onPointerDown={(event) => onPointerDown(name, event)}
      onPointerMove={onPointerMove}
      onPointerUp={onPointerUp}
      onPointerCancel={() => studio.abandon()}
    />
  );

  const fadeIn = clip.fadeInSeconds * perSecond;
  const fadeOut = clip.fadeOutSeconds * perSecond;
  return (
    <div
      className={`clip ${selected ? 'clip-selected' : ''} ${frozen ? 'clip-frozen' : ''}`}
      style={{ left: clip.startBeat * pixelsPerBeat, width: Math.max(3, width), height }}
      role="button"
      tabIndex={0}
      aria-pressed={selected}
      aria-label={`Clip ${clip.name}, from beat ${(clip.startBeat + 1).toFixed(2)}, ${clip.lengthSeconds.toFixed(2)} seconds`}
      onPointerDown={(event) => onPointerDown('body', event)}
      onPointerMove={onPointerMove}
      onPointerUp={onPointerUp}
      onPointerCancel={() => studio.abandon()}
      onKeyDown={onKeyDown}
    >
      <Waveform
        peaks={peaks}
        sampleRateHz={asset?.sampleRateHz ?? document.session.sampleRateHz}
        offsetSeconds={clip.offsetSeconds}
        lengthSeconds={clip.lengthSeconds}
        gain={clip.gainDb <= -100 ? 0 : dbToGain(clip.gainDb)}
        width={Math.max(3, width)}
        height={height - 2}
        theme={theme}
      />
      <svg className="clip-fades" width={Math.max(3, width)} height={height} aria-hidden="true">
        <path d={`M0 ${height} L${fadeIn} 0 L0 0 Z`} />
        <path d={`M${width} ${height} L${width - fadeOut} 0 L${width} 0 Z`} />
      </svg>
      {handle('start')}
      {handle('end')}
      {width > 30 && handle('fadeIn', { left: Math.min(width - 12, fadeIn) })}
      {width > 30 && handle('fadeOut', { right: Math.min(width - 12, fadeOut) })}
      {width > 40 && <span className="clip-name">{clip.name}</span>}
    </div>
  );
}
