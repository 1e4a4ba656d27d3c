'use client';

import { useCallback, useEffect, useEffectEvent, useRef, useState, type FocusEvent } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import {
  Background,
  BackgroundVariant,
  ReactFlow,
  ReactFlowProvider,
  useOnViewportChange,
  useReactFlow,
  type Viewport,
} from '@xyflow/react';
import '@xyflow/react/dist/base.css';
import type { Command } from '@/core/session/commands';
import { allStrips, stripOf } from '@/core/session/records/queries';
import { MAIN_ID } from '@/core/session/records/strips';
import type { SessionDocument } from '@/core/session/records/document';
import type { Connection } from '@/core/session/routing';
import { useStudio, useStudioState } from '../session/StudioContext';
import { isFound } from '../ui/isFound';
import { useConnecting } from './connecting';
import { edgesOf, nodesOf, useDrawing } from './drawing';
import { KeyChoice } from './KeyChoice';
import { connectionId } from './layout';
import { SignalLine } from './SignalLine';
import { StripNode } from './StripNode';
import { firstViewport, LARGEST_ZOOM, shiftInto } from './viewport';
import { useSignalWidths } from './useSignalWidths';

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

/** Routing from left to right: sound on solid and dotted lines, side chains dashed; line width shows the level. */
export function RoutingView() {
  return (
    <ReactFlowProvider>
      <Flow />
    </ReactFlowProvider>
  );
}

/** Letters that are drawn smaller than this are not read. */
const SMALLEST_LETTER = 11;

function Flow() {
  const studio = useStudio();
  const { document, stripId } = useStudioState(({ document, stripId }) => ({ document, stripId }));
  const [chosen, setChosen] = useState<string | null>(null);
  const { connect, key, keying, setKeying, said } = useConnecting(setChosen);
  const box = useRef<HTMLDivElement>(null);
  const sheet = useRef<HTMLDivElement>(null);
  /** Only the chosen strip and what it touches. */
  const [near, setNear] = useState(false);
  const [search, setSearch] = useState('');
  /** Groups whose strips are folded away. */
  const [folded, setFolded] = useState<ReadonlySet<string>>(new Set());
  const drawing = useDrawing(folded, near);
  const { away, connections, shown, places } = drawing;
  const { fitView, getViewport, setViewport } = useReactFlow();
  const isSearching = search.trim() !== '';
  /** Chooses the first strip of that name, out of what it is folded into, and brings it into sight. */
  const find = () => {
    const found = isSearching && allStrips(document).find(({ name }) => isFound(search, name));
    if (!found) return;
    studio.selection.selectStrip(found.id);
    setNear(false);
    if (away.has(found.id)) setFolded(new Set());
    else void fitView({ nodes: [{ id: found.id }], maxZoom: LARGEST_ZOOM, minZoom: 1, duration: 0 });
  };
  const showFromStart = useEffectEvent(() => {
    const { clientWidth: width, clientHeight: height } = sheet.current!;
    void setViewport(firstViewport(places.strips, stripId, { width, height }));
  });
  // Another layout is shown from its beginning.
  useEffect(() => {
    const frame = requestAnimationFrame(() => showFromStart());
    return () => cancelAnimationFrame(frame);
  }, [places]);
  // Zoomed out, names keep a size that can be read, and what is smaller is hidden.
  const onChange = useCallback(({ zoom }: Viewport) => {
    box.current!.style.setProperty('--least-letter', `${SMALLEST_LETTER / zoom}px`);
    box.current!.classList.toggle('routing-far', zoom < 1);
  }, []);
  useOnViewportChange({ onChange });

  /** Brings a line into sight that is come to by Tab; strips do so by themselves. */
  const showFocused = ({ target }: FocusEvent) => {
    const line = target.closest('.react-flow__edge');
    const shift = line && shiftInto(sheet.current!.getBoundingClientRect(), line.getBoundingClientRect());
    if (!shift) return;
    const { x, y, zoom } = getViewport();
    void setViewport({ x: x + shift.x, y: y + shift.y, zoom });
  };
  const turnFold = (id: string) => {
    const next = new Set(folded);
    if (!next.delete(id)) next.add(id);
    setFolded(next);
  };
  const within = connections.filter(({ fromId, toId }) => shown.has(fromId) && shown.has(toId));
  const nodes = nodesOf(document, drawing, {
    stripId,
    folded,
    turnFold,
    isDim: (name) => isSearching && !isFound(search, name),
  });
  const edges = edgesOf(document, within, places, chosen);
  useSignalWidths(box);
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
      <header>
        <Legend />
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
          className="routing-all"
          title="Zoom out until everything is in sight"
          onClick={() => void fitView({ maxZoom: LARGEST_ZOOM })}
        >
          Show all
        </Button>
        <Button
          variant="line"
          className="routing-near"
          aria-pressed={near}
          title="Show the chosen strip and what it touches alone"
          onClick={() => setNear(!near)}
        >
          Around {stripOf(document, stripId)!.name} only
        </Button>
      </header>
      <div className="routing-sheet" ref={sheet} onFocus={showFocused}>
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
          panOnScroll
          minZoom={0.3}
          maxZoom={2}
          proOptions={{ hideAttribution: true }}
          aria-label="Routing"
        >
          <Background variant={BackgroundVariant.Lines} gap={40} className="routing-grid" />
        </ReactFlow>
      </div>
      <p className="routing-hint" role="status">
        {said !== '' && <b>{said} </b>}
        Drag from the right edge of a strip to another: onto a return sends, onto a group or main leads there, onto a
        key mark steers. Press a level to change it, Delete removes a chosen line. The wheel moves the sheet, with Ctrl
        it zooms.
      </p>
      {keying && <KeyChoice keying={keying} onKey={key} onHide={() => setKeying(null)} />}
    </div>
  );
}

function Legend() {
  return (
    <dl className="routing-legend">
      <dt className="sample sample-dry" />
      <dd>sound</dd>
      <dt className="sample sample-wet" />
      <dd>send and wet</dd>
      <dt className="sample sample-key" />
      <dd>key, follower</dd>
    </dl>
  );
}
