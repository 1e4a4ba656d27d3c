'use client';

import { useRef } from 'react';
import { EdgeLabelRenderer, getBezierPath, type Edge, type EdgeProps } from '@xyflow/react';
import Button from 'react-bootstrap/Button';
import { formatValue } from '@/core/effects/parameterText';
import { dbToGain } from '@/core/math/elementary';
import type { Connection } from '@/core/session/routing';
import { SEND_GAIN_PARAMETER } from '@/core/session/stripParameters';
import { useStudio, useStudioState } from '../session/StudioContext';
import { AutomatedRuler } from '../controls/AutomatedRuler';
import { timingOf } from '@/core/session/records/queries';
import { pathThrough, type Place } from './layout';
import { usePointerDrag } from '../ui/usePointerDrag';

export type SignalEdge = Edge<
  {
    readonly kind: Connection['kind'];
    /** The send, the keyed insert, the modulator, or the strip whose output it is. */
    readonly ownerId: string;
    readonly wet: boolean;
    /** It stands for several: it has no level of its own. */
    readonly folded: boolean;
    /** Points that it passes; null for side chains, which go straight. */
    readonly places: readonly Place[] | null;
    /** Position of its level. */
    readonly label: Place | null;
  },
  'signal'
>;

/** A path of sound or a key, with the level of a send on it. */
export function SignalLine(props: EdgeProps<SignalEdge>) {
  const { source, sourceX, sourceY, sourcePosition, targetX, targetY, targetPosition, selected, data } = props;
  const { kind, ownerId, wet, folded, label } = data!;
  const send = useStudioState(({ document }) => (kind === 'send' && !folded ? document.sends[ownerId] : undefined));
  const path = data!.places
    ? pathThrough(data!.places)
    : getBezierPath({ sourceX, sourceY, sourcePosition, targetX, targetY, targetPosition })[0];
  const gain = send ? (send.mute || send.gainDb <= -100 ? 0 : dbToGain(send.gainDb)) : 1;
  const signal = kind === 'key' || kind === 'follow' ? 'key' : wet ? 'wet' : 'dry';
  return (
    <>
      <path className="signal-reach" d={path} />
      <path
        className={`signal-line signal-${signal} ${selected ? 'signal-chosen' : ''} ${send?.mute ? 'signal-off' : ''}`}
        d={path}
        data-from={source}
        data-gain={gain}
      />
      {send && label && (
        <EdgeLabelRenderer>
          <div
            className="send-label nodrag nopan"
            style={{ transform: `translate(-50%, -50%) translate(${label.x}px, ${label.y}px)` }}
          >
            <SendLabel sendId={ownerId} selected={selected === true} />
          </div>
        </EdgeLabelRenderer>
      )}
    </>
  );
}

const DB_PER_PIXEL = 0.15;

const within = (gainDb: number) => Math.min(SEND_GAIN_PARAMETER.max, Math.max(SEND_GAIN_PARAMETER.min, gainDb));

function SendLabel({ sendId, selected }: { sendId: string; selected: boolean }) {
  const studio = useStudio();
  const { send, from, to, timing } = useStudioState(({ document }) => ({
    send: document.sends[sendId],
    from: document.tracks[document.sends[sendId]?.fromId ?? '']?.name ?? '',
    to: document.returns[document.sends[sendId]?.toId ?? '']?.name ?? '',
    timing: JSON.stringify(timingOf(document)),
  }));
  const hasMoved = useRef(false);
  const label = `${from}: send to ${to}`;
  const [begin] = usePointerDrag<{ gainDb: number; y: number }, [gainDb: number]>({
    begin: (event, gainDb) => {
      hasMoved.current = false;
      return { gainDb, y: event.clientY };
    },
    move: ({ gainDb, y }, { clientY }) => {
      hasMoved.current = true;
      const moved = within(Number((gainDb + (y - clientY) * DB_PER_PIXEL).toFixed(1)));
      studio.editor.preview({ type: 'send.set', id: sendId, values: { gainDb: moved } }, label);
    },
    end: () => studio.editor.settle(),
    cancel: () => studio.editor.abandon(),
  });
  if (!send) return null;
  if (selected) {
    return (
      <div className="send-ruler">
        <AutomatedRuler
          ownerId={sendId}
          parameter={{ ...SEND_GAIN_PARAMETER, name: `to ${to}` }}
          ownerName={from}
          signal="wet"
        />
      </div>
    );
  }
  const set = (gainDb: number) => studio.editor.perform({ type: 'send.set', id: sendId, values: { gainDb } }, label);
  return (
    <Button
      bsPrefix="send-pill"
      aria-label={`Send of ${from} to ${to}, ${formatValue(SEND_GAIN_PARAMETER, send.gainDb, JSON.parse(timing))}`}
      title="Drag up and down, use the arrow keys, or press for its ruler"
      onClick={(event) => hasMoved.current && event.stopPropagation()}
      onKeyDown={(event) => {
        const step = { ArrowUp: 0.5, ArrowRight: 0.5, ArrowDown: -0.5, ArrowLeft: -0.5 }[event.key];
        if (step === undefined) return;
        event.preventDefault();
        event.stopPropagation();
        set(within(send.gainDb + step));
      }}
      onPointerDown={(event) => begin(event, send.gainDb)}
    >
      {send.mute ? 'muted' : formatValue(SEND_GAIN_PARAMETER, send.gainDb, JSON.parse(timing))}
    </Button>
  );
}
