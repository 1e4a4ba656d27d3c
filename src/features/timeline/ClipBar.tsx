'use client';

import { useMemo } from 'react';
import { ArrowLeftRight, ChartSpline, VolumeX } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import { loopedPart } from '@/core/swells/makeSwell';
import { assetOf, soundOf } from '@/core/session/prints';
import { CLIP_GAIN_PARAMETER } from '@/core/session/stripParameters';
import type { Clip } from '@/core/session/records/clips';
import { printClip, swellInto } from '../session/clipWork';
import { useStudio, useStudioState } from '../session/StudioContext';
import { usePrintState } from '../session/usePrintState';
import { AutomatedRuler } from '../controls/AutomatedRuler';
import { FadeFields } from './FadeFields';
import { placedPrintOf } from '@/core/session/prints';
import { rangeWords } from './pitchRange';
import { SoundFacts } from './SoundFacts';
import { SwellBar } from './SwellBar';
import { WordChoice } from './Words';
import { lazyPart } from '../ui/lazyPart';

/** Its chart is fetched when it is needed. */
const Repairs = lazyPart('The repairs', () => import('./Repairs').then((part) => part.Repairs));

/** Tools for the selected clip. */
export function ClipBar({ clip }: { readonly clip: Clip }) {
  const studio = useStudio();
  const { document, word, onsets, pitched, course } = useStudioState((state) => {
    const pitched = state.pitchShown.includes(clip.trackId);
    return {
      document: state.document,
      word: state.word,
      onsets: state.onsets[soundOf(state.document, clip.source) ?? ''],
      pitched,
      course: pitched ? state.pitches[soundOf(state.document, clip.source) ?? ''] : undefined,
    };
  });
  const range = useMemo(() => (course ? rangeWords(course, clip) : null), [course, clip]);
  const asset = assetOf(document, clip);
  const print = placedPrintOf(document, clip);
  const state = usePrintState(print?.id ?? null);
  const frozen = (document.tracks[clip.trackId]?.frozen ?? null) !== null;
  if (print?.recipe.kind === 'swell') return <SwellBar clip={clip} print={{ ...print, recipe: print.recipe }} />;
  const chosen = word?.clipId === clip.id ? word : null;
  const looped = loopedPart(clip, document);
  const set = (values: Partial<Clip>, label: string) =>
    studio.editor.perform({ type: 'clip.set', id: clip.id, values }, `${label} ${clip.name}`);
  return (
    <div className="clip-bar">
      <div className="clip-title">
        <b title={clip.name}>{clip.name}</b>
        <span>{clip.lengthSeconds.toFixed(2)} s</span>
      </div>
      <FadeFields clips={[clip]} name={clip.name} />
      <Button
        variant="plain"
        aria-pressed={clip.reversed}
        title="Play it backwards"
        onClick={() => set({ reversed: !clip.reversed }, 'Reverse')}
      >
        <ArrowLeftRight size={13} aria-hidden="true" /> Reverse
      </Button>
      <Button variant="plain" aria-pressed={clip.mute} title="Mute" onClick={() => set({ mute: !clip.mute }, 'Mute')}>
        <VolumeX size={13} aria-hidden="true" /> Mute
      </Button>
      <Button
        variant="plain"
        aria-pressed={pitched}
        title="Show what is sung or played on this track, over the notes of the key"
        onClick={() => studio.sounds.showPitch(clip.trackId, !pitched)}
      >
        <ChartSpline size={13} aria-hidden="true" /> {range ? `Pitch ${range}` : 'Pitch'}
      </Button>
      <Repairs clip={clip} linked={print !== null} />
      {asset && <SoundFacts clip={clip} asset={asset} />}
      {print ? (
        <>
          <span role="status">{state === 'fresh' ? 'rendered' : `rendered, ${state}`}</span>
          <Button
            variant="plain"
            disabled={print.made === null}
            title="Unlinks it from its source: a clip like any other from now on"
            onClick={() => studio.editor.perform({ type: 'print.unlink', id: print.id }, `Unlink ${clip.name}`)}
          >
            Unlink
          </Button>
        </>
      ) : (
        <>
          <Button
            variant="plain"
            disabled={frozen}
            title={frozen ? 'Thaw the track first' : 'Through the effects of its track, as a new clip beneath'}
            onClick={() => void printClip(studio, clip)}
          >
            Render this clip
          </Button>
          {onsets && <WordChoice clip={clip} onsets={onsets} chosen={chosen} />}
          <Button
            variant="line"
            title="A reversed reverb that grows towards it and ends where it begins"
            onClick={() => swellInto(studio, clip, chosen ?? looped)}
          >
            {chosen ? 'Make a swell into this word' : looped ? 'Make a swell into the loop' : 'Make a swell into this'}
          </Button>
        </>
      )}
      <div className="clip-level">
        <AutomatedRuler ownerId={clip.id} parameter={CLIP_GAIN_PARAMETER} ownerName={clip.name} signal="dry" />
      </div>
    </div>
  );
}
