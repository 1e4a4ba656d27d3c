import type { PrintTask } from '../jobs/kinds';
import { ENGINE_VERSION } from '../engine/version';
import { noteValueSeconds, PLAIN_TIMING } from '../effects/noteValues';
import { effectById, specOf } from '../effects/registry';
import { resolveValues } from '../effects/resolve';
import { fingerprint } from '../math/hash';
import type { FadeShape } from '../math/fades';
import type { Plan, PlanInsert } from '../engine/plan';
import { compileClipAlone, compileSpace, compileTap } from './compile/parts';
import { soundOf, soundPlace } from './prints';
import { timingOf } from './records/queries';
import type { Clip } from './records/clips';
import type { Print, SwellRecipe } from './records/prints';
import type { SessionDocument } from './records/document';
import { swellValues } from '../swells/swellParameters';

/** A print that has to be made: what is done for it, the sounds that takes, and what it depends on. */
export interface PrintWork {
  readonly task: PrintTask;
  readonly soundIds: readonly string[];
  readonly fingerprint: string;
}

/** The job that renders a print; null while a source of it is missing. */
export function printWork(document: SessionDocument, { recipe }: Pick<Print, 'recipe'>): PrintWork | null {
  const task = taskOf(document, recipe);
  if (!task) return null;
  return { task, soundIds: soundsIn(task), fingerprint: taskFingerprint(task) };
}

/** Fingerprint of a print's inputs: the versions of the engine and of the effects it uses, and its whole task. */
function taskFingerprint(task: PrintTask): string {
  const used = new Set<string>();
  const text = JSON.stringify(task, (key, value: unknown) => {
    if (key === 'effect') used.add(value as string);
    return value instanceof Float64Array ? [...value] : value;
  });
  // First versions are left out: prints from before effects had versions stay what they were.
  const versions = [...used].sort().flatMap((id) => {
    const { version = 1 } = effectById(id);
    return version === 1 ? [] : `${id}@${version}`;
  });
  return fingerprint([ENGINE_VERSION, ...versions, text].join(' '));
}

function taskOf(document: SessionDocument, recipe: Print['recipe']): PrintTask | null {
  switch (recipe.kind) {
    case 'strip': {
      const plan = compileTap(document, recipe.stripId);
      return { kind: 'print', plan, range: { fromFrame: 0, toFrame: plan.endFrame, tailSeconds: 'auto' } };
    }
    case 'clip':
      return clipTask(document, document.clips[recipe.clipId]!);
    case 'swell':
      return swellTask(document, recipe);
    case 'repair': {
      const assetId = recipe.source.kind === 'sound' ? soundOf(document, recipe.source) : null;
      if (assetId === null) return null;
      const sampleRateHz = document.session.sampleRateHz;
      const filter = recipe.rumbleHz === 0 ? null : rumbleFilter(recipe.rumbleHz);
      return { kind: 'repair', assetId, sampleRateHz, removeDc: recipe.removeDc, filter };
    }
  }
}

/** High-pass of the fourth order. */
function rumbleFilter(frequency: number): PlanInsert {
  const spec = specOf('eq');
  const values = {
    'bands.1.on': true,
    'bands.1.type': 'lowCut',
    'bands.1.frequency': frequency,
    'bands.1.slope': '24',
  };
  return {
    id: 'rumble',
    effect: spec.id,
    bypass: false,
    values: resolveValues(spec, values, PLAIN_TIMING),
  };
}

/** The clip through its track, with nothing else on that. */
function clipTask(document: SessionDocument, clip: Clip): PrintTask {
  const others = Object.entries(document.clips).filter(([, one]) => one.trackId !== clip.trackId);
  const alone = { ...document, clips: { ...Object.fromEntries(others), [clip.id]: { ...clip, mute: false } } };
  const plan = compileTap(alone, clip.trackId);
  const own = plan.strips.find(({ id }) => id === clip.trackId)?.clips[0];
  const fromFrame = own?.startFrame ?? 0;
  return {
    kind: 'print',
    plan,
    range: { fromFrame, toFrame: fromFrame + (own?.lengthFrames ?? 0), tailSeconds: 'auto' },
  };
}

function swellTask(document: SessionDocument, recipe: SwellRecipe): PrintTask | null {
  const clip = document.clips[recipe.clipId]!;
  const plan = compileClipAlone(document, clip);
  if (!plan) return null;
  const { sampleRate } = plan;
  const values = swellValues(recipe.values);
  const seconds = (value: unknown) =>
    typeof value === 'string' ? noteValueSeconds(value, timingOf(document))! : Number(value);
  const inserts = compileSpace(document, recipe.space);
  const tone = Number(values.tone);
  const land = Math.round(soundPlace(clip, recipe.landSeconds) * sampleRate);
  return {
    kind: 'swell',
    plan,
    inserts: tone === 0 ? inserts : [...inserts, tilted(tone)],
    settings: {
      sampleRate,
      landFrame: Math.max(0, Math.min(plan.endFrame, land)),
      sourceSeconds: seconds(values.source),
      lengthSeconds: values.ring ? null : seconds(values.length),
      fadeInSeconds: Number(values.fadeIn),
      fadeShape: values.fadeShape as FadeShape,
      gapSeconds: Number(values.gap) / 1000,
      levelDb: Number(values.level),
      width: Number(values.width) / 100,
      over: Boolean(values.over),
    },
  };
}

function tilted(slope: number): PlanInsert {
  const spec = specOf('tilt');
  const values = resolveValues(spec, { slope, pivot: 1000 }, PLAIN_TIMING);
  return { id: 'tone', effect: spec.id, bypass: false, values };
}

function soundsIn(task: PrintTask): string[] {
  if (task.kind === 'repair') return [task.assetId];
  return soundsOfPlan(task.plan, task.kind === 'swell' ? task.inserts : []);
}

/**
 * Ids of the sounds that a plan plays and that its effects work with.
 * @param others effects beside those of the plan
 */
export function soundsOfPlan(plan: Plan, others: readonly PlanInsert[] = []): string[] {
  const inserts = [...plan.strips.flatMap((strip) => strip.inserts), ...others];
  const clips = plan.strips.flatMap((strip) => strip.clips.map(({ assetId }) => assetId));
  return [...new Set([...clips, ...inserts.flatMap(({ resource }) => resource?.assetId ?? [])])];
}

/** Prints whose sounds are part of what a print is made from, nearest first. */
export function printsBehind(document: SessionDocument, print: Pick<Print, 'id' | 'recipe'>): string[] {
  const sounds = new Set(printWork(document, print)?.soundIds);
  return Object.values(document.prints).flatMap(({ id, made }) =>
    id !== print.id && made && sounds.has(made.assetId) ? [id] : [],
  );
}

/** True if a print's sound is up to date with its recipe. */
export function isFresh(document: SessionDocument, print: Print): boolean {
  return print.made !== null && print.made.fingerprint === printWork(document, print)?.fingerprint;
}
