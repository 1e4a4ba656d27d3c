'use client';

import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import { meterSlots } from '@/core/effects/meters';
import { findParameter, type EffectSpec, type PictureKind } from '@/core/effects/spec';
import { stripOfInsert, timingOf } from '@/core/session/records/queries';
import type { Insert } from '@/core/session/records/inserts';
import { useStudioState } from '../../session/StudioContext';
import { takesLevelAway } from '../../controls/reduction';
import { ReductionHistory } from '../../controls/ReductionHistory';
import { CurvePicture } from './CurvePicture';
import { EchogramPicture } from './EchogramPicture';
import { CombPicture, DelaysPicture } from './MovingPictures';
import { ReductionBar } from './ReductionBar';
import { linesInUse, longestSpan, useEchogramAt, useEchograms, usePicture } from './pictures';
import type { ItemProps, Part } from '../extras';
import { useMovedPicture } from './useMovedPicture';
import { VIEWS } from '../views.generated';

type PictureChoice = 'own' | 'moves' | 'impulse' | 'chain';

const OWN_NAMES: Record<PictureKind, string> = {
  echogram: 'Repeats',
  response: 'Response',
  levels: 'Levels',
  hysteresis: 'Levels',
  shape: 'Shape',
  motion: 'Movement',
  burst: 'Burst',
  comb: 'Comb',
  delays: 'Copies',
};

/** Large picture of an effect, of the chosen kind. */
export function EffectPicture(props: ItemProps & { spec: EffectSpec }) {
  const { insert, spec } = props;
  const strip = useStudioState(({ document }) => stripOfInsert(document, insert.id)!);
  const [choice, setChoice] = useState<PictureChoice>('own');
  const parts = VIEWS[insert.effect]?.parts;
  const choices: readonly (readonly [PictureChoice, string])[] = [
    ['own', VIEWS[insert.effect]?.pictureName ?? OWN_NAMES[spec.picture]],
    ...(meterSlots(spec, 'delays') && spec.picture !== 'delays' ? [['moves', 'Movement'] as const] : []),
    ...(spec.picture === 'echogram' && !VIEWS[insert.effect]?.Picture ? [] : [['impulse', 'Impulse'] as const]),
    ['chain', 'Impulse of the whole chain'],
  ];
  return (
    <div className="effect-picture">
      <div className="picture-choice" role="group" aria-label="Picture">
        {choices.map(([id, word]) => (
          <Button bsPrefix="bare" key={id} aria-pressed={choice === id} onClick={() => setChoice(id)}>
            {word}
          </Button>
        ))}
      </div>
      {choice === 'own' && <OwnPicture {...props} />}
      {choice === 'moves' && <MovesPicture insert={insert} spec={spec} />}
      {choice === 'impulse' && parts && <PartsPicture insert={insert} parts={parts} />}
      {choice === 'impulse' && !parts && <ImpulsePicture key="one" insertIds={[insert.id]} byLine={false} />}
      {choice === 'chain' && <ImpulsePicture key="chain" insertIds={strip.insertIds} byLine={false} />}
      {takesLevelAway(insert) && (
        <div className="reduction-large">
          {!VIEWS[insert.effect]?.withoutHistory && <ReductionHistory insertId={insert.id} />}
          <ReductionBar insertId={insert.id} />
        </div>
      )}
    </div>
  );
}

function OwnPicture(props: ItemProps & { spec: EffectSpec }) {
  const { insert, spec } = props;
  const { Picture } = VIEWS[insert.effect] ?? {};
  const label = `${spec.name}, as the engine answers a test sound`;
  if (Picture) return <Picture {...props} />;
  if (spec.picture === 'echogram') return <ImpulsePicture insertIds={[insert.id]} byLine />;
  if (spec.picture === 'comb') return <SweepPicture insert={insert} label={label} />;
  if (spec.picture === 'delays') return <MovesPicture insert={insert} spec={spec} />;
  return <PlainPicture insert={insert} spec={spec} label={label} />;
}

function PlainPicture({ insert, spec, label }: { insert: Insert; spec: EffectSpec; label: string }) {
  const picture = usePicture(insert);
  const moved = useMovedPicture(insert.id, spec.picture);
  return <CurvePicture picture={picture} live={moved} label={label} />;
}

function SweepPicture({ insert, label }: { insert: Insert; label: string }) {
  return <CombPicture picture={usePicture(insert)} insertId={insert.id} label={label} />;
}

function MovesPicture({ insert, spec }: { insert: Insert; spec: EffectSpec }) {
  const shape = insert.values.shape;
  const periodic = findParameter(spec, 'rate') !== undefined && shape !== 'steppedRandom' && shape !== 'smoothRandom';
  const picture = usePicture(insert, 'delays');
  const { BelowMovement } = VIEWS[insert.effect] ?? {};
  return (
    <>
      <DelaysPicture
        picture={picture}
        insertId={insert.id}
        label={`${spec.name}: delays of its copies over time and what they do to the pitch, from the engine`}
        periodic={periodic && insert.values.motion !== 'grains'}
        cycles={2}
      />
      {BelowMovement && <BelowMovement insert={insert} />}
    </>
  );
}

/** The impulse response of an effect or of a chain. */
function ImpulsePicture({ insertIds, byLine }: { insertIds: readonly string[]; byLine: boolean }) {
  const document = useStudioState(({ document }) => document);
  const { longest, span, ...zoom } = useZoom(byLine ? 'bars' : 'ms');
  const found = useEchograms(insertIds, Math.min(longest, span ?? longest));
  const apart = byLine && found !== null && found.lines.length > 1;
  const only = insertIds.length === 1 ? document.inserts[insertIds[0]!] : undefined;
  const names = only && apart ? linesInUse(only).map((line) => `line ${line}`) : ['all'];
  return (
    <EchogramPicture echograms={found && (apart ? found.lines : [found.all])} names={names} span={span} {...zoom} />
  );
}

/** The impulse response of an effect, two parts of it told apart. */
function PartsPicture({ insert, parts }: { readonly insert: Insert; readonly parts: readonly [Part, Part] }) {
  const { longest, span, ...zoom } = useZoom('ms');
  const seconds = Math.min(longest, span ?? longest);
  const first = useEchogramAt(insert, parts[0].values, seconds);
  const second = useEchogramAt(insert, parts[1].values, seconds);
  return (
    <EchogramPicture
      echograms={first && second && [first, second]}
      names={parts.map(({ name }) => name)}
      span={span}
      {...zoom}
    />
  );
}

/** Length of an impulse response that is shown, and its grid. */
function useZoom(ruled: 'bars' | 'ms') {
  const document = useStudioState(({ document }) => document);
  const [unit, onUnit] = useState<'bars' | 'ms'>(ruled);
  const [span, setSpan] = useState<number | null>(null);
  const longest = longestSpan(document);
  return {
    longest,
    timing: timingOf(document),
    beatQuarters: 4 / document.session.metreUnit,
    span,
    onSpan: (seconds: number | null) => setSpan(seconds === null || seconds >= longest ? null : seconds),
    unit,
    onUnit,
  };
}
