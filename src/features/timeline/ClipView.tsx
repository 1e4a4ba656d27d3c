'use client';

import { memo, useEffect } from 'react';
import { ArrowLeft } from 'lucide-react';
import { clamp } from '@/core/math/clamp';
import { dbToGain } from '@/core/math/elementary';
import { fadeLevel, type FadeShape } from '@/core/math/fades';
import { assetOf, soundOf, type PlacedPrint } from '@/core/session/prints';
import type { Clip } from '@/core/session/records/clips';
import type { SessionDocument } from '@/core/session/records/document';
import { CLIP_GAIN_PARAMETER } from '@/core/session/stripParameters';
import { useStudio, useStudioState } from '../session/StudioContext';
import { useTheme } from '../ui/theme';
import { usePrintState } from '../session/usePrintState';
import { useClipDrag, useClipKeys } from './clipGestures';
import { levelPart, type Handle } from './geometry';
import { placedPrintOf } from '@/core/session/prints';
import { Landing } from './Landing';
import { PitchLine } from './PitchLine';
import { GrowingWave, Waveform, WIDEST } from './Waveform';
import { FileMarks } from './SoundFacts';
import { Words } from './Words';

const PRINT_WORDS = {
  fresh: '',
  stale: ', out of date',
  computing: ', being rendered',
  failed: ', could not be rendered',
} as const;
const FADE_STEPS = 16;

/** The area above the curve of a fade. */
function fadePath(shape: FadeShape, width: number, height: number): string {
  if (width <= 0) return '';
  const points = Array.from({ length: FADE_STEPS + 1 }, (_, n) => {
    const t = n / FADE_STEPS;
    return `L${(t * width).toFixed(1)} ${((1 - fadeLevel(shape, t)) * height).toFixed(1)}`;
  });
  return `M0 0 ${points.join(' ')} L${width.toFixed(1)} 0 Z`;
}

/** True for a clip whose level a lane moves, or its swell's own. */
const hasLevelOfItsOwn = (document: SessionDocument, clip: Clip): boolean =>
  placedPrintOf(document, clip)?.recipe.kind === 'swell' ||
  Object.values(document.lanes).some(
    ({ ownerId, parameter, on }) => ownerId === clip.id && parameter === CLIP_GAIN_PARAMETER.id && on,
  );

/** Part of a clip's width of which the wave is drawn: all of a narrow one, of a wide one what is in sight. */
function drawnPart(left: number, width: number, [from, to]: readonly [number, number]): readonly [number, number] {
  if (width <= WIDEST) return [0, width];
  const begin = clamp(0, width - 1, Math.floor(from - left));
  return [begin, clamp(begin + 1, width, Math.ceil(to - left))];
}

interface ClipProps {
  readonly clip: Clip;
  /** Swells that land in it. */
  readonly landings: readonly PlacedPrint[];
  /** Height of its row in pixels. */
  readonly lane: number;
  readonly frozen: boolean;
  /** Part of the sheet that is drawn of wide clips, in pixels. */
  readonly span: readonly [number, number];
}

/** A clip: drag it to move it, its edges to trim, the corners at its top to fade. */
export const ClipView = memo(function ClipView({ clip, landings, lane, frozen, span }: ClipProps) {
  const height = lane - 10;
  const studio = useStudio();
  const {
    pixelsPerBeat,
    tempoBpm,
    rateHz,
    fileRateHz,
    asset,
    selected,
    isLevelShown,
    alone,
    soundId,
    peaks,
    growing,
    onsets,
    word,
    pitched,
    print,
  } = useStudioState((state) => {
    const { document, clipIds } = state;
    const soundId = soundOf(document, clip.source);
    const asset = assetOf(document, clip);
    return {
      pixelsPerBeat: state.pixelsPerBeat,
      tempoBpm: document.session.tempoBpm,
      rateHz: document.session.sampleRateHz,
      fileRateHz: asset?.sampleRateHz ?? document.session.sampleRateHz,
      asset,
      selected: clipIds.includes(clip.id),
      isLevelShown: clipIds.includes(clip.id) && !hasLevelOfItsOwn(document, clip),
      alone: clipIds.length === 1 && clipIds[0] === clip.id,
      soundId,
      peaks: state.peaks[asset?.id ?? ''],
      growing: clip.source.kind === 'print' ? state.growing[clip.source.printId] : undefined,
      onsets: state.onsets[soundId ?? ''],
      word: state.word?.clipId === clip.id ? state.word : null,
      pitched: state.pitchShown.includes(clip.trackId),
      print: placedPrintOf(document, clip),
    };
  });
  const theme = useTheme();
  const begin = useClipDrag(clip, lane);
  const onKeyDown = useClipKeys(clip);
  const perSecond = (pixelsPerBeat * tempoBpm) / 60;
  const width = clip.lengthSeconds * perSecond;
  const [from, to] = drawnPart(clip.startBeat * pixelsPerBeat, Math.max(3, width), span);
  const printing = usePrintState(clip.source.kind === 'print' ? clip.source.printId : null) ?? 'fresh';
  useEffect(() => {
    if (alone && soundId !== null && !print) void studio.sounds.findOnsets(soundId);
  }, [alone, soundId, print, studio]);

  const handle = (name: Handle, style?: { left?: number; right?: number }) => (
    <span className={`clip-handle clip-${name}`} style={style} onPointerDown={(event) => begin(event, name)} />
  );

  const fadeIn = clip.fadeInSeconds * perSecond;
  const fadeOut = clip.fadeOutSeconds * perSecond;
  const words = alone && !print ? onsets : undefined;
  const marked = asset?.about?.marks ? asset : undefined;
  return (
    <>
      <div
        className={[
          'clip',
          ...(selected ? ['clip-selected'] : []),
          ...(frozen || clip.mute ? ['clip-frozen'] : []),
          ...(print?.recipe.kind === 'swell' ? ['clip-swell'] : []),
          ...(pitched ? ['clip-pitched'] : []),
          ...(printing === 'fresh' ? [] : [`clip-${printing}`]),
        ].join(' ')}
        style={{ left: clip.startBeat * pixelsPerBeat, width: Math.max(3, width), height }}
        data-menu={`clip ${clip.id}`}
        role="button"
        tabIndex={0}
        aria-haspopup="menu"
        aria-pressed={selected}
        aria-label={`Clip ${clip.name}, from beat ${(clip.startBeat + 1).toFixed(2)}, ${clip.lengthSeconds.toFixed(2)} seconds${clip.mute ? ', muted' : ''}${clip.reversed ? ', reversed' : ''}${PRINT_WORDS[printing]}`}
        onPointerDown={(event) => begin(event, 'body')}
        onKeyDown={onKeyDown}
      >
        {growing ? (
          <GrowingWave {...growing} width={Math.max(3, width)} height={height - 2} theme={theme} />
        ) : (
          <Waveform
            soundId={soundId}
            peaks={peaks}
            fileRateHz={fileRateHz}
            rateHz={rateHz}
            offsetSeconds={clip.offsetSeconds}
            lengthSeconds={clip.lengthSeconds}
            reversed={clip.reversed}
            gain={clip.gainDb <= -100 ? 0 : dbToGain(clip.gainDb)}
            width={Math.max(3, width)}
            height={height - 2}
            from={from}
            to={to}
          />
        )}
        {pitched && !growing && (
          <PitchLine clip={clip} perSecond={perSecond} width={Math.max(3, width)} height={height} />
        )}
        <Fades clip={clip} fadeIn={fadeIn} fadeOut={fadeOut} width={Math.max(3, width)} height={height} />
        {isLevelShown && (
          <span
            className="clip-level-line"
            style={{ top: levelPart(clip.gainDb) * (height - 2) }}
            title={`Level ${clip.gainDb.toFixed(1)} dB: drag up or down`}
            onPointerDown={(event) => begin(event, 'level')}
          />
        )}
        {handle('start')}
        {!print && handle('end')}
        {width > 30 && handle('fadeIn', { left: Math.min(width - 12, fadeIn) })}
        {width > 30 && handle('fadeOut', { right: Math.min(width - 12, fadeOut) })}
        {width > 40 && (
          <span className="clip-name">
            {clip.reversed && <ArrowLeft size={11} aria-hidden="true" />}
            {clip.name}
            {printing !== 'fresh' && <em>{PRINT_WORDS[printing]}</em>}
          </span>
        )}
      </div>
      {(words || marked || landings.length > 0) && (
        <div
          className={`clip-marks ${frozen || clip.mute ? 'clip-frozen' : ''}`}
          style={{ left: clip.startBeat * pixelsPerBeat, width: Math.max(3, width), height }}
        >
          {marked && <FileMarks clip={clip} asset={marked} perSecond={perSecond} />}
          {words && <Words clip={clip} onsets={words} chosen={word} perSecond={perSecond} />}
          {landings.map((one) => (
            <Landing key={one.id} print={one} clip={clip} perSecond={perSecond} onsets={onsets ?? []} />
          ))}
        </div>
      )}
    </>
  );
});

interface FadesProps {
  readonly clip: Clip;
  /** Lengths in pixels. */
  readonly fadeIn: number;
  readonly fadeOut: number;
  readonly width: number;
  readonly height: number;
}

function Fades({ clip, fadeIn, fadeOut, width, height }: FadesProps) {
  return (
    <svg className="clip-fades" width={width} height={height} aria-hidden="true">
      <path d={fadePath(clip.fadeInShape, fadeIn, height)} />
      <path d={fadePath(clip.fadeOutShape, fadeOut, height)} transform={`translate(${width} 0) scale(-1 1)`} />
    </svg>
  );
}
