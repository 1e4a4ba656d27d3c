import { PLAIN_TIMING } from '../effects/noteValues';
import { effectById } from '../effects/registry';
import { completed } from '../effects/resolve';
import type { ParameterValues } from '../effects/values';
import { ENGINE_VERSION } from '../engine/version';
import type { PlanInsert } from '../engine/plan';
import { planClip, planStrip } from '../engine/plans';
import { KinetikonError } from '../errors';
import type { OutputFormatId } from '../formats/soundFormats';
import type { ImpulseSource, JobInputs, PrintTask } from '../jobs/kinds';
import { compileBounce, FIELD_ORDERS, type Delivery } from './compile/bounce';
import { framesPerBeat } from './compile/context';
import { resolvedInsert } from './compile/inserts';
import { printWork, soundsOfPlan } from './printing';
import type { Asset } from './records/clips';
import { DOCUMENT_VERSION, type SessionDocument } from './records/document';
import type { Print } from './records/prints';

/** Range, tail, level and output format of a bounce. */
export interface BounceSettings {
  readonly delivery: Delivery;
  readonly fromBeat: number;
  readonly toBeat: number;
  readonly tailSeconds: 'auto' | number;
  readonly format: OutputFormatId;
  readonly gainDb: number;
}

/** An effect as presets write it. */
export interface ChainEffect {
  readonly effect: string;
  readonly bypass: boolean;
  readonly values: ParameterValues;
}

/**
 * Renders as plain data, which any machine with the sounds can run: the plan is compiled where that happens. What comes
 * out is the same bits everywhere.
 */
export type RenderRequest =
  | ({ readonly kind: 'bounce'; readonly document: SessionDocument } & BounceSettings)
  /** A frozen strip, a printed clip, a swell or a repaired sound. */
  | { readonly kind: 'print'; readonly document: SessionDocument; readonly recipe: Print['recipe'] }
  | { readonly kind: 'impulse'; readonly from: ImpulseSource; readonly sampleRateHz: number }
  | {
      readonly kind: 'match';
      readonly impulse: { readonly assetId: string } | { readonly shippedId: string };
      readonly sampleRateHz: number;
    }
  /** A sound through a chain of effects, at the sound's own rate. */
  | {
      readonly kind: 'chain';
      readonly effects: readonly ChainEffect[];
      readonly sound: Pick<Asset, 'id' | 'frames' | 'sampleRateHz'>;
      readonly tailSeconds: 'auto' | number;
      readonly format: OutputFormatId;
    };

export type RenderKind = RenderRequest['kind'];

/** A task without the sounds that it needs. */
type WithoutSounds<T> = Omit<T, 'samples'>;

/** Work that a request comes to once it is compiled. */
export type RenderWork = {
  readonly soundIds: readonly string[];
  readonly sampleRateHz: number;
} & (
  | { readonly task: { readonly kind: 'bounce' } & WithoutSounds<JobInputs['bounce']> }
  | { readonly task: PrintTask }
  | { readonly task: { readonly kind: 'impulse' } & JobInputs['impulse'] }
  /** The impulse is one of the sounds where it does not ship. */
  | { readonly task: { readonly kind: 'match'; readonly shippedId: string | null; readonly sampleRateHz: number } }
);

/** The bounce of a session, without the sounds that it plays. */
export function bounceTask(
  document: SessionDocument,
  { delivery, fromBeat, toBeat, tailSeconds, format, gainDb }: BounceSettings,
): { readonly kind: 'bounce' } & WithoutSounds<JobInputs['bounce']> {
  const perBeat = framesPerBeat(document);
  const field = FIELD_ORDERS[delivery];
  return {
    kind: 'bounce',
    plan: compileBounce(document, delivery),
    range: { fromFrame: Math.round(fromBeat * perBeat), toFrame: Math.round(toBeat * perBeat), tailSeconds },
    format,
    gainDb,
    ...(field ? { field } : {}),
  };
}

/** Effects of a preset as they sound at a rate. */
function chainInserts(effects: readonly ChainEffect[], sampleRateHz: number): PlanInsert[] {
  return effects.map(({ effect, bypass, values: written }, position) => {
    const values = completed(effectById(effect), {}, written, PLAIN_TIMING);
    return resolvedInsert({ id: `effect-${position + 1}`, effect, bypass, values }, sampleRateHz, PLAIN_TIMING);
  });
}

/**
 * Compiles a request.
 * @throws KinetikonError session.loop, and print.impossible when a source of a print is not there
 */
export function renderWork(request: RenderRequest): RenderWork {
  switch (request.kind) {
    case 'bounce': {
      const task = bounceTask(request.document, request);
      return { task, soundIds: soundsOfPlan(task.plan), sampleRateHz: task.plan.sampleRate };
    }
    case 'print': {
      const { document, recipe } = request;
      const work = printWork(document, { recipe });
      if (!work) throw new KinetikonError('print.impossible', 'A source of this print has not been made yet.');
      return { task: work.task, soundIds: work.soundIds, sampleRateHz: document.session.sampleRateHz };
    }
    case 'impulse':
      return { task: request, soundIds: [], sampleRateHz: request.sampleRateHz };
    case 'match': {
      const { impulse, sampleRateHz } = request;
      const shippedId = 'shippedId' in impulse ? impulse.shippedId : null;
      const soundIds = 'assetId' in impulse ? [impulse.assetId] : [];
      return { task: { kind: 'match', shippedId, sampleRateHz }, soundIds, sampleRateHz };
    }
    case 'chain': {
      const { effects, sound, tailSeconds, format } = request;
      const clip = planClip('sound', sound.frames, { assetId: sound.id });
      const inserts = chainInserts(effects, sound.sampleRateHz);
      const plan = {
        sampleRate: sound.sampleRateHz,
        framesPerBeat: (sound.sampleRateHz * 60) / PLAIN_TIMING.tempoBpm,
        endFrame: sound.frames,
        loop: null,
        strips: [planStrip('sound', { clips: [clip], inserts })],
        edges: [],
      };
      const range = { fromFrame: 0, toFrame: sound.frames, tailSeconds };
      const task = { kind: 'bounce' as const, plan, range, format, gainDb: 0 };
      return { task, soundIds: soundsOfPlan(plan), sampleRateHz: sound.sampleRateHz };
    }
  }
}

/** Versions that a request was made with: who runs it needs the same. */
export const RENDER_VERSIONS = { engine: ENGINE_VERSION, document: DOCUMENT_VERSION } as const;

/** Text with the keys of all objects in order, so that equal data give equal texts. */
function canonical(value: unknown): string {
  return JSON.stringify(value, (_, one: unknown) =>
    typeof one === 'object' && one !== null && !Array.isArray(one)
      ? Object.fromEntries(Object.entries(one).sort(([a], [b]) => (a < b ? -1 : 1)))
      : one,
  );
}

/**
 * Text that is the same for the same render: its request, the engine's version and those of the effects. Its hash is the
 * key of the render.
 */
export function renderIdentity(request: RenderRequest): string {
  const used = new Set(canonical(request).match(/(?<="effect":")\w+/g) ?? []);
  const versions = [...used].sort().map((id) => `${id}@${effectById(id).version ?? 1}`);
  return [RENDER_VERSIONS.engine, RENDER_VERSIONS.document, ...versions, canonical(request)].join(' ');
}
