import type { Plan, PlanEdge } from '../../engine/plan';
import { frozenSound } from '../prints';
import { Memo } from '../memo';
import { channelOf, endBeat } from '../records/queries';
import type { SessionDocument } from '../records/document';
import { scaleOf } from '../scales';
import { carriesSound, connectionsOf, signalOrder } from '../routing';
import { optional, gainFactor, type CompileOptions, newContext } from './context';
import { sendCurve } from './curves';
import { placedStrip, compilePlace, compileStrip } from './strips';
import { audibilityOf } from './solo';

/** Compiles documents to plans; parts that did not change since the last document are the same objects. */
export class Compiler {
  private readonly memo = new Memo();

  /** @throws KinetikonError session.loop */
  compile(document: SessionDocument, options: CompileOptions = {}): Plan {
    const { session } = document;
    const context = newContext(document, this.memo);
    const { perBeat } = context;
    const connections = connectionsOf(document);
    const audibility = audibilityOf(document, connections, options.ignoreSolo ?? false);
    const edges = connections.flatMap((connection): PlanEdge[] => {
      const { kind, id, fromId, toId } = connection;
      if (!carriesSound(connection) || frozenSound(document, toId) !== null) return [];
      const passes = audibility.passes(connection);
      if (kind === 'output') {
        const out = { id: `${id}>out`, fromId, toId, tap: 'afterFader', gain: passes ? 1 : 0 } as const;
        if (!channelOf(document, fromId)?.placeId) return [out];
        const placeId = placedStrip(fromId);
        return [
          { ...out, toId: placeId },
          { id: `${placeId}>out`, fromId: placeId, toId, tap: 'afterFader', gain: 1 },
        ];
      }
      const send = document.sends[id]!;
      const level = passes ? sendCurve(context, id) : undefined;
      const gain = passes && !send.mute ? gainFactor(send.gainDb) : 0;
      return [{ id, fromId, toId, tap: send.tap, gain, ...optional('curve', level) }];
    });
    const strips = signalOrder(document, connections).flatMap((id) => {
      const place = compilePlace(context, id);
      const strip = compileStrip(context, id, audibility, options);
      return place ? [strip, place] : [strip];
    });
    this.memo.sweep();
    return {
      sampleRate: session.sampleRateHz,
      framesPerBeat: perBeat,
      scale: scaleOf(session),
      endFrame: Math.round(endBeat(document) * perBeat),
      loop: session.loopOn
        ? {
            startFrame: Math.round(session.loopStartBeat * perBeat),
            endFrame: Math.round(session.loopEndBeat * perBeat),
          }
        : null,
      strips,
      edges,
    };
  }
}

/**
 * Compiles one document to a plan.
 * @throws KinetikonError session.loop
 */
export function compile(document: SessionDocument, options: CompileOptions = {}): Plan {
  return new Compiler().compile(document, options);
}
