'use client';

import { useEffect, useMemo, useRef, useState } from 'react';
import Modal from 'react-bootstrap/Modal';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import {
  Background,
  BackgroundVariant,
  ReactFlow,
  ReactFlowProvider,
  useReactFlow,
  type Connection as Drawn,
  type Edge,
  type Node,
} from '@xyflow/react';
import '@xyflow/react/dist/base.css';
import { findEffect } from '@/core/effects/registry';
import type { InputSpec } from '@/core/effects/spec';
import type { Command } from '@/core/session/commands';
import { allStrips, stripOf, stripOfInsert } from '@/core/session/records/queries';
import { MAIN_ID } from '@/core/session/records/strips';
import { newSend } from '@/core/session/records/factories';
import type { Insert } from '@/core/session/records/inserts';
import type { SessionDocument } from '@/core/session/records/document';
import { connectionsOf, type Connection } from '@/core/session/routing';
import { newId } from '../session/newId';
import { useStudio, useStudioState } from '../session/StudioContext';
import { meterPosition } from '../ui/levels';
import { useFrame } from '../ui/useFrame';
import {
  connectionId,
  drawnConnections,
  foldedAway,
  layOut,
  neighbours,
  NODE_HEIGHT,
  NODE_WIDTH,
  steers,
  wiringOf,
  type Wiring,
} from './layout';
import { SignalLine, type SignalEdge } from './SignalLine';
import { KEY_HANDLE, StripNode, type StripNodeType } from './StripNode';

const NODE_TYPES = { strip: StripNode };
const EDGE_TYPES = { signal: SignalLine };

/** The command that removes the connection of a line in the drawing; null for one that cannot be removed. */
function removal(document: SessionDocument, edge: string): { command: Command; label: string } | null {
  const [kind, id, slot] = edge.split(' ') as [Connection['kind'], string, string];
  if (kind === 'send') return { command: { type: 'send.remove', id }, label: 'Remove a send' };
  if (kind === 'key') return { command: { type: 'insert.input', id, slot, from: null }, label: 'Remove a key' };
  if (kind === 'follow')
    return {
      command: { type: 'modulator.set', id, values: { followId: null } },
      label: `${document.modulators[id]!.name} follows nothing`,
    };
  if (document.tracks[id]?.outputId === MAIN_ID || document.returns[id]?.outputId === MAIN_ID) return null;
  return {
    command: { type: 'strip.set', id, values: { outputId: MAIN_ID } },
    label: `${stripOf(document, id)!.name} to the main output`,
  };
}

/** An input of an effect that another strip can feed. */
interface Ear {
  readonly insert: Insert;
  readonly input: InputSpec;
}

function earsOf(document: SessionDocument, stripId: string): Ear[] {
  return stripOf(document, stripId)!.insertIds.flatMap((id) => {
    const insert = document.inserts[id]!;
    return (findEffect(insert.effect)?.inputs ?? []).map((input) => ({ insert, input }));
  });
}

function heardBy(document: SessionDocument, { insert, input }: Ear): string {
  const from = insert.inputs[input.id];
  return `${input.name.toLowerCase()}: ${from ? stripOf(document, from.stripId)!.name : 'its own input'}`;
}

/** Routing from left to right: sound on solid and dotted lines, side chains dashed; line width shows the level. */
export function RoutingView() {
  return (
    <ReactFlowProvider>
      <Flow />
    </ReactFlowProvider>
  );
}

/** The plan lies between the legend and the hint. */
const FIT = { padding: { top: '52px', bottom: '54px', left: '30px', right: '30px' }, maxZoom: 1.15 } as const;
const VERBS: Record<Connection['kind'], string> = {
  send: 'sends to',
  output: 'goes to',
  key: 'keys',
  follow: 'is followed by',
};

function Flow() {
  const studio = useStudio();
  const { document, stripId } = useStudioState(({ document, stripId }) => ({ document, stripId }));
  const [chosen, setChosen] = useState<string | null>(null);
  /** A key that was drawn onto a strip with several effects that could take it. */
  const [keying, setKeying] = useState<{ from: string; to: string } | null>(null);
  const [said, setSaid] = useState('');
  const box = useRef<HTMLDivElement>(null);
  /** Only the chosen strip and what it touches. */
  const [near, setNear] = useState(false);
  const [search, setSearch] = useState('');
  /** Groups whose strips are folded away. */
  const [folded, setFolded] = useState<ReadonlySet<string>>(new Set());
  const away = useMemo(() => foldedAway(document, folded), [document, folded]);
  const connections = useMemo(() => drawnConnections(connectionsOf(document), away), [document, away]);
  const shown = useMemo(() => {
    const ids = allStrips(document).flatMap(({ id }) => (away.has(id) ? [] : [id]));
    const touched = near ? neighbours(connections, away.get(stripId) ?? stripId) : null;
    return new Set(ids.filter((id) => touched?.has(id) ?? true));
  }, [near, connections, stripId, document, away]);
  const wiring = JSON.stringify(wiringOf(document, connections, shown));
  const places = useMemo(() => layOut(JSON.parse(wiring) as Wiring), [wiring]);
  const { fitView } = useReactFlow();
  const wanted = search.trim().toLowerCase();
  const fits = (name: string) => name.toLowerCase().includes(wanted);
  /** Chooses the first strip of that name, out of what it is folded into, and brings it into sight. */
  const find = () => {
    const found = allStrips(document).find(({ name }) => fits(name));
    if (!found || wanted === '') return;
    studio.selection.selectStrip(found.id);
    setNear(false);
    if (away.has(found.id)) setFolded(new Set());
    else void fitView({ nodes: [{ id: found.id }], maxZoom: 1.15, duration: 0 });
  };
  // Another layout comes into sight as a whole.
  useEffect(() => {
    const frame = requestAnimationFrame(() => void fitView(FIT));
    return () => cancelAnimationFrame(frame);
  }, [fitView, places]);

  const foldOf = (id: string) => {
    if (document.returns[id]?.role !== 'group') return null;
    const count = foldedAway(document, new Set([id])).size;
    const turn = () => {
      const next = new Set(folded);
      if (!next.delete(id)) next.add(id);
      setFolded(next);
    };
    return count === 0 ? null : { count, away: folded.has(id), turn };
  };
  const strips = allStrips(document).filter(({ id }) => shown.has(id));
  const nodes: Node[] = strips.map((strip): StripNodeType => ({
    id: strip.id,
    type: 'strip',
    ariaLabel: `${strip.name}, ${strip.insertIds.length} effects`,
    position: places.strips.get(strip.id)!,
    selected: strip.id === stripId,
    // Known sizes: without them every change would be measured anew, and lines would go and come.
    measured: { width: NODE_WIDTH, height: NODE_HEIGHT },
    draggable: false,
    deletable: false,
    data: {
      name: strip.name,
      kind: strip.id === MAIN_ID ? 'main' : (document.returns[strip.id]?.role ?? 'track'),
      effects: strip.insertIds.map((id) => findEffect(document.inserts[id]!.effect)!.name).join(', '),
      keyed:
        earsOf(document, strip.id).length > 0 ||
        connections.some((one) => one.kind === 'follow' && one.toId === strip.id),
      silent: strip.mute,
      dim: wanted !== '' && !fits(strip.name),
      fold: foldOf(strip.id),
    },
  }));
  const within = connections.filter(({ fromId, toId }) => shown.has(fromId) && shown.has(toId));
  const nameOf = (id: string) => stripOf(document, id)!.name;
  const edges: Edge[] = within.map((connection): SignalEdge => ({
    id: connectionId(connection),
    type: 'signal',
    ariaLabel: `${nameOf(connection.fromId)} ${VERBS[connection.kind]} ${nameOf(connection.toId)}`,
    source: connection.fromId,
    target: connection.toId,
    ...(steers(connection) ? { targetHandle: KEY_HANDLE } : {}),
    selected: connectionId(connection) === chosen,
    data: {
      kind: connection.kind,
      ownerId: connection.id,
      folded: connection.folded,
      places: places.lines.get(connectionId(connection)) ?? null,
      label: places.labels.get(connectionId(connection)) ?? null,
      wet: document.returns[connection.fromId]?.role === 'return' || connection.kind === 'send',
    },
  }));

  useFrame(() => {
    box.current?.querySelectorAll<SVGPathElement>('[data-from]').forEach((line) => {
      const { left, right } = studio.engine.level(line.dataset.from!);
      const gain = Number(line.dataset.gain);
      line.style.strokeWidth = `${(1.2 + 5 * meterPosition(Math.max(left, right) * gain)).toFixed(2)}px`;
    });
    box.current?.querySelectorAll<HTMLElement>('[data-node-meter]').forEach((bar) => {
      const { left, right } = studio.engine.level(bar.dataset.nodeMeter!);
      bar.style.transform = `scaleX(${meterPosition(Math.max(left, right)).toFixed(4)})`;
    });
  });

  /** Lets a strip steer an effect; the step says which. */
  const key = ({ insert, input }: Ear, fromId: string) => {
    const from = stripOf(document, fromId)!.name;
    const name = `${findEffect(insert.effect)!.name} on ${stripOfInsert(document, insert.id)!.name}`;
    studio.editor.perform(
      { type: 'insert.input', id: insert.id, slot: input.id, from: { stripId: fromId, tap: 'beforeFader' } },
      `${input.name} ${name} from ${from}`,
    );
    studio.selection.selectInsert(insert.id);
    setSaid(`${from} keys ${name}.`);
  };

  const connect = ({ source, target, targetHandle }: Drawn) => {
    const from = stripOf(document, source)!.name;
    const to = stripOf(document, target)!.name;
    if (targetHandle === KEY_HANDLE) {
      const [first, ...others] = earsOf(document, target);
      if (first && others.length === 0) key(first, source);
      else if (first) setKeying({ from: source, to: target });
      return;
    }
    if (document.returns[target]?.role === 'return') {
      const send = newSend(newId(), source, target);
      if (studio.editor.perform({ type: 'send.add', send }, `Send ${from} to ${to}`)) setChosen(`send ${send.id}`);
      return;
    }
    studio.editor.perform({ type: 'strip.set', id: source, values: { outputId: target } }, `${from} to ${to}`);
  };

  return (
    <div
      className="routing"
      ref={box}
      onKeyDown={(event) => {
        if ((event.key !== 'Delete' && event.key !== 'Backspace') || chosen === null) return;
        if ((event.target as HTMLElement).closest('input')) return;
        const stands = within.find((one) => connectionId(one) === chosen);
        const gone = stands && !stands.folded ? removal(document, chosen) : null;
        if (gone) studio.editor.perform(gone.command, gone.label);
        setChosen(null);
      }}
    >
      <ReactFlow
        nodes={nodes}
        edges={edges}
        nodeTypes={NODE_TYPES}
        edgeTypes={EDGE_TYPES}
        onConnect={connect}
        onNodeClick={(_, node) => {
          studio.selection.selectStrip(node.id);
          setChosen(null);
        }}
        onEdgeClick={(_, edge) => setChosen(edge.id)}
        onPaneClick={() => setChosen(null)}
        deleteKeyCode={null}
        nodesDraggable={false}
        fitView
        fitViewOptions={FIT}
        minZoom={0.3}
        maxZoom={2}
        proOptions={{ hideAttribution: true }}
        aria-label="Routing"
      >
        <Background variant={BackgroundVariant.Lines} gap={40} className="routing-grid" />
      </ReactFlow>
      <Form.Control
        type="search"
        className="routing-search"
        placeholder="find a strip"
        aria-label="Find a strip"
        value={search}
        onChange={(event) => setSearch(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === 'Enter') find();
        }}
      />
      <Button
        variant="line"
        className="routing-near"
        aria-pressed={near}
        title="Show the chosen strip and what it touches alone"
        onClick={() => setNear(!near)}
      >
        Around {stripOf(document, stripId)!.name} only
      </Button>
      <dl className="routing-legend">
        <dt className="sample sample-dry" />
        <dd>sound</dd>
        <dt className="sample sample-wet" />
        <dd>send and wet</dd>
        <dt className="sample sample-key" />
        <dd>key, follower</dd>
      </dl>
      <p className="routing-hint" role="status">
        {said !== '' && <b>{said} </b>}
        Drag from the right edge of a strip to another: onto a return sends, onto a group or main leads there, onto a
        key mark steers. Press a level to change it, Delete removes a chosen line.
      </p>
      {keying && (
        <Modal show centered size="sm" onHide={() => setKeying(null)} aria-labelledby="keying-title">
          <Modal.Header closeButton>
            <Modal.Title id="keying-title" as="h2">
              What is to listen to {stripOf(document, keying.from)!.name}?
            </Modal.Title>
          </Modal.Header>
          <Modal.Body className="keying">
            {earsOf(document, keying.to).map((ear) => (
              <Button
                key={`${ear.insert.id} ${ear.input.id}`}
                variant="line"
                onClick={() => {
                  key(ear, keying.from);
                  setKeying(null);
                }}
              >
                {findEffect(ear.insert.effect)!.name}
                <small>{heardBy(document, ear)}</small>
              </Button>
            ))}
          </Modal.Body>
        </Modal>
      )}
    </div>
  );
}
