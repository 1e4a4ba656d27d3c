'use client';

import Button from 'react-bootstrap/Button';
import { Handle, Position, type Node, type NodeProps } from '@xyflow/react';

export const KEY_HANDLE = 'key';

export type StripNodeType = Node<
  {
    readonly name: string;
    readonly kind: 'track' | 'return' | 'group' | 'main';
    readonly effects: string;
    readonly keyed: boolean;
    readonly silent: boolean;
    /** It is not what is searched. */
    readonly dim: boolean;
    /** A group in the drawing: how many strips lead into it, whether they are folded, and the switch for that. */
    readonly fold: { readonly count: number; readonly away: boolean; readonly turn: () => void } | null;
  },
  'strip'
>;

/** A strip in the drawing: name, effects, live level; sound in at the left, key in below, out at the right. */
export function StripNode({ id, data, selected }: NodeProps<StripNodeType>) {
  return (
    <div
      className={`strip-node strip-node-${data.kind} ${selected ? 'strip-node-selected' : ''} ${data.silent || data.dim ? 'strip-node-silent' : ''}`}
    >
      {data.kind !== 'track' && (
        <Handle type="target" position={Position.Left} role="img" aria-label={`Into ${data.name}`} />
      )}
      <b title={data.name}>{data.name}</b>
      <small title={data.effects}>{data.effects || (data.kind === 'main' ? 'output' : data.kind)}</small>
      {data.fold && (
        <Button
          bsPrefix="node-fold"
          className="nodrag nopan"
          aria-expanded={!data.fold.away}
          aria-label={`${data.fold.away ? 'Unfold' : 'Fold'} ${data.name}: ${data.fold.count} strips`}
          title={
            data.fold.away ? `Show the ${data.fold.count} strips in it` : `Fold its ${data.fold.count} strips away`
          }
          onClick={(event) => {
            event.stopPropagation();
            data.fold!.turn();
          }}
        >
          {data.fold.away ? `+${data.fold.count}` : '−'}
        </Button>
      )}
      <div className="node-meter" aria-hidden="true">
        <span data-node-meter={id} />
      </div>
      {data.keyed && (
        <Handle
          type="target"
          id={KEY_HANDLE}
          position={Position.Bottom}
          className="key-handle"
          role="img"
          aria-label={`Key of ${data.name}`}
          title="Key: drag here from what is to steer its effect"
        />
      )}
      {data.kind !== 'main' && (
        <Handle type="source" position={Position.Right} role="img" aria-label={`Out of ${data.name}`} />
      )}
    </div>
  );
}
