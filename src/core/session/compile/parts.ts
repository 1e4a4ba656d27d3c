import type { Plan, PlanInsert } from '../../engine/plan';
import { planStrip, tapPlan } from '../../engine/plans';
import { wetOnly } from '../../swells/wetOnly';
import { Memo } from '../memo';
import { channelOf, stripOfInsert } from '../records/queries';
import { MAIN_ID } from '../records/strips';
import type { Clip } from '../records/clips';
import type { SessionDocument } from '../records/document';
import type { SwellSpace } from '../records/prints';
import { optional, framesPerBeat, type CompileOptions, newContext } from './context';
import { plainInsert } from './inserts';
import { placedStrip } from './strips';
import { compileClip } from './clips';
import { compile } from './compiler';

/** A plan of one clip with its level and fades, from frame 0, without effects; null if it has no sound. */
export function compileClipAlone(document: SessionDocument, clip: Clip): Plan | null {
  const one = compileClip(newContext(document, new Memo()), { ...clip, mute: false });
  if (!one) return null;
  const { gainCurve } = one;
  const moved = gainCurve && {
    frames: Float64Array.from(gainCurve.frames, (frame) => frame - one.startFrame),
    values: gainCurve.values,
  };
  return {
    sampleRate: document.session.sampleRateHz,
    framesPerBeat: framesPerBeat(document),
    endFrame: one.lengthFrames,
    loop: null,
    strips: [planStrip('clip', { clips: [{ ...one, id: 'clip', startFrame: 0, ...optional('gainCurve', moved) }] })],
    edges: [],
  };
}

/** Inserts of a swell's space, wet only. */
export function compileSpace(document: SessionDocument, space: SwellSpace): PlanInsert[] {
  const inserts =
    space.kind === 'own'
      ? space.inserts
      : document.returns[space.returnId]!.insertIds.map((insertId) => document.inserts[insertId]!);
  return wetOnly(inserts.map((insert) => plainInsert(document, insert)));
}

/** A strip's contribution to the mix, with its place on the stage; the whole mix for the main output. Ignores solo. */
export function compileHeard(document: SessionDocument, stripId: string): Plan {
  const whole = compile(document, { ignoreSolo: true });
  if (stripId === MAIN_ID) return whole;
  return channelOf(document, stripId)?.placeId ? tapPlan(whole, placedStrip(stripId)) : compileTap(document, stripId);
}

/** Output of one insert, without the inserts behind it. Ignores solo. */
export function compileBehind(document: SessionDocument, insertId: string): Plan {
  const strip = stripOfInsert(document, insertId)!;
  const cut = { ...strip, insertIds: strip.insertIds.slice(0, strip.insertIds.indexOf(insertId) + 1) };
  if (strip.id === MAIN_ID) return compile({ ...document, main: cut }, { ignoreSolo: true });
  const kind = document.tracks[strip.id] ? 'tracks' : 'returns';
  return compileTap({ ...document, [kind]: { ...document[kind], [strip.id]: cut } }, strip.id);
}

/** Output of a strip before its fader, with all that feeds it. Ignores solo, and freezing of the strip. */
export function compileTap(document: SessionDocument, stripId: string, options: CompileOptions = {}): Plan {
  const channel = channelOf(document, stripId);
  const kind = document.tracks[stripId] ? 'tracks' : 'returns';
  const thawed = channel?.frozen
    ? { ...document, [kind]: { ...document[kind], [stripId]: { ...channel, frozen: null } } }
    : document;
  const plan = tapPlan(compile(thawed, { ...options, ignoreSolo: true }), stripId);
  const level = planStrip(stripId);
  return {
    ...plan,
    strips: plan.strips.map(({ curves, ...strip }) =>
      strip.id === stripId
        ? { ...strip, gain: level.gain, pan: level.pan, audible: true }
        : { ...strip, ...optional('curves', curves) },
    ),
  };
}
