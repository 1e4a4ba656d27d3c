import type { PlanClip } from '../../engine/plan';
import { planClip } from '../../engine/plans';
import { compareIds } from '../compareIds';
import { frozenSound, soundOf } from '../prints';
import type { Clip } from '../records/clips';
import { optional, gainFactor, type CompileContext } from './context';
import { parameterCurve } from './curves';

/** Compiles a clip; null if it is muted or its print has not been rendered. */
export function compileClip(context: CompileContext, clip: Clip): PlanClip | null {
  const { document, memo, perBeat } = context;
  const { sampleRateHz } = document.session;
  const gainCurve = parameterCurve(context, clip.id, 'gainDb', gainFactor);
  const assetId = soundOf(document, clip.source);
  return memo.keep(`clip ${clip.id}`, [clip, assetId, perBeat, sampleRateHz, gainCurve], () => {
    if (assetId === null || clip.mute) return null;
    const frames = (seconds: number) => Math.round(seconds * sampleRateHz);
    return {
      id: clip.id,
      assetId,
      startFrame: Math.round(clip.startBeat * perBeat),
      offsetFrame: frames(clip.offsetSeconds),
      lengthFrames: frames(clip.lengthSeconds),
      gain: gainFactor(clip.gainDb),
      fadeInFrames: frames(clip.fadeInSeconds),
      fadeOutFrames: frames(clip.fadeOutSeconds),
      ...(clip.fadeInShape === 'smooth' ? {} : { fadeInShape: clip.fadeInShape }),
      ...(clip.fadeOutShape === 'smooth' ? {} : { fadeOutShape: clip.fadeOutShape }),
      ...(clip.reversed ? { reversed: true as const } : {}),
      ...optional('gainCurve', gainCurve),
    };
  });
}

export function clipsOf(context: CompileContext, stripId: string): readonly PlanClip[] {
  const { document } = context;
  const frozen = frozenSound(document, stripId);
  if (frozen !== null) {
    const asset = document.assets[frozen]!;
    const lengthFrames = Math.round((asset.frames / asset.sampleRateHz) * document.session.sampleRateHz);
    return [planClip(`${stripId}>print`, lengthFrames, { assetId: frozen })];
  }
  return [...(context.clips.get(stripId) ?? [])]
    .sort((a, b) => a.startBeat - b.startBeat || compareIds(a, b))
    .flatMap((clip) => compileClip(context, clip) ?? []);
}
