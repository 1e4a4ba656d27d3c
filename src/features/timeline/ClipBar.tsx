'use client';

import { useMemo } from 'react';
import { ArrowLeftRight, ChartSpline, VolumeX } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { readFigure } from '@/core/effects/units';
import { FADE_SHAPES } from '@/core/math/fades';
import { loopedPart } from '@/core/swells/makeSwell';
import { assetOf, soundOf } from '@/core/session/prints';
import { CLIP_GAIN_PARAMETER } from '@/core/session/stripParameters';
import type { Clip } from '@/core/session/records/clips';
import { KinetikonError } from '@/core/errors';
import { printClip, swellInto } from '../session/clipWork';
import { useStudio, useStudioState } from '../session/StudioContext';
import { usePrintState } from '../session/usePrintState';
import { AutomatedRuler } from '../controls/AutomatedRuler';
import { EditableText } from '../ui/EditableText';
import { placedPrintOf } from './geometry';
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
  const fade = (id: 'fadeIn' | 'fadeOut', text: string) => {
    const ms = readFigure('ms', text);
    const most = clip.lengthSeconds - (id === 'fadeIn' ? clip.fadeOutSeconds : clip.fadeInSeconds);
    if (ms === undefined || ms < 0 || ms / 1000 > most + 1e-9) {
      studio.messages.report(
        new KinetikonError('parameter.range', `A fade takes 0 to ${Math.floor(most * 1000)} ms, not "${text}".`, {
          kept: 'Nothing was changed.',
        }),
        'fade',
      );
      return;
    }
    set({ [`${id}Seconds`]: ms / 1000 }, 'Fade');
  };
  const fades = (['fadeIn', 'fadeOut'] as const).map((id) => {
    const way = id === 'fadeIn' ? 'in' : 'out';
    return (
      <div key={id} className="lane-field">
        <span>fade {way}</span>
        <EditableText
          label={`Fade ${way} of ${clip.name}`}
          text={`${Math.round(clip[`${id}Seconds`] * 1000)} ms`}
          width={58}
          onTyped={(text) => fade(id, text)}
        />
        <Form.Select
          size="sm"
          aria-label={`Shape of fade ${way}`}
          value={clip[`${id}Shape`]}
          onChange={(event) => set({ [`${id}Shape`]: event.target.value }, 'Fade')}
        >
          {FADE_SHAPES.map((shape) => (
            <option key={shape}>{shape}</option>
          ))}
        </Form.Select>
      </div>
    );
  });
  return (
    <div className="clip-bar">
      <div className="clip-title">
        <b title={clip.name}>{clip.name}</b>
        <span>{clip.lengthSeconds.toFixed(2)} s</span>
      </div>
      {fades}
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
