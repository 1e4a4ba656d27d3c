'use client';

import { useRef, type KeyboardEvent } from 'react';
import { ROOMS } from '@/core/effects/reverb/rooms';
import { specOf } from '@/core/effects/registry';
import { defaultValues } from '@/core/effects/spec';
import { formatUnit } from '@/core/effects/units';
import type { Insert } from '@/core/session/records/inserts';
import { useStudio } from '../../session/StudioContext';
import { usePointerDrag } from '../../ui/usePointerDrag';

const SIZE = 150;
const STEP = 2;

/** The box from above, its front at the top: where the sound stands and where one listens, to be dragged. */
export function RoomPlan({ insert }: { readonly insert: Insert }) {
  const studio = useStudio();
  const svg = useRef<SVGSVGElement>(null);
  const values = { ...defaultValues(specOf('reverb')), ...insert.values };
  const room = ROOMS.find(({ id }) => id === values.shape)!;
  const figure = (id: string) => Number(values[id]);
  const longer = Math.max(1, room.width);
  const width = (SIZE * room.width) / longer;
  const height = SIZE / longer;
  const left = (SIZE - width) / 2;
  const things = [
    { id: 'source', name: 'Source', ink: 'plan-source' },
    { id: 'listener', name: 'Listener', ink: 'plan-listener' },
  ] as const;
  const command = (id: string, across: number, along: number) => {
    const within = (value: number) => Math.round(Math.min(96, Math.max(4, value)));
    return {
      type: 'insert.set' as const,
      id: insert.id,
      values: { [`${id}Across`]: within(across), [`${id}Along`]: within(along) },
    };
  };
  const [begin] = usePointerDrag<string, [id: string]>({
    begin: (_, id) => id,
    move: (id, { clientX, clientY }) => {
      const box = svg.current!.getBoundingClientRect();
      const scale = box.width / SIZE;
      const across = ((clientX - box.left) / scale - left) / width;
      const along = (clientY - box.top) / scale / height;
      studio.editor.preview(command(id, 100 * across, 100 * along), `Reverb: ${id}`);
    },
    end: () => studio.editor.settle(),
    cancel: () => studio.editor.abandon(),
  });
  const onKey = (id: string) => (event: KeyboardEvent) => {
    const by = event.shiftKey ? STEP / 2 : STEP;
    const [across, along] = [figure(`${id}Across`), figure(`${id}Along`)];
    const to: Record<string, [number, number]> = {
      ArrowLeft: [across - by, along],
      ArrowRight: [across + by, along],
      ArrowUp: [across, along - by],
      ArrowDown: [across, along + by],
    };
    const next = to[event.key];
    if (!next) return;
    event.preventDefault();
    studio.editor.perform(command(id, ...next), `Reverb: ${id}`);
  };
  const place = (id: string) => ({
    x: left + (figure(`${id}Across`) / 100) * width,
    y: (figure(`${id}Along`) / 100) * height,
  });
  const [source, listener] = [place('source'), place('listener')];
  const metres = `${formatUnit('m', Number((room.width * figure('size')).toPrecision(3)))} by ${formatUnit('m', figure('size'))}`;
  return (
    <figure className="room-plan">
      <svg
        ref={svg}
        viewBox={`-6 -6 ${SIZE + 12} ${Math.max(height, 40) + 12}`}
        role="group"
        aria-label={`Plan of the room, ${metres}`}
      >
        <rect className="plan-walls" x={left} y={0} width={width} height={height} />
        <line className="plan-way" x1={source.x} y1={source.y} x2={listener.x} y2={listener.y} />
        {things.map(({ id, name, ink }) => {
          const { x, y } = place(id);
          return (
            <g
              key={id}
              className={`plan-thing ${ink}`}
              transform={`translate(${x} ${y})`}
              role="slider"
              tabIndex={0}
              aria-label={`${name} in the room`}
              aria-valuenow={figure(`${id}Along`)}
              aria-valuemin={4}
              aria-valuemax={96}
              aria-valuetext={`${figure(`${id}Across`)} % across, ${figure(`${id}Along`)} % along`}
              onKeyDown={onKey(id)}
              onPointerDown={(event) => begin(event, id)}
            >
              <title>{`${name}: drag it, or use the arrow keys`}</title>
              <circle r="11" className="plan-hold" />
              {id === 'source' ? <circle r="5" /> : <path d="M0 -6 L5.5 5 L-5.5 5 Z" />}
            </g>
          );
        })}
      </svg>
      <figcaption>
        {metres}
        <span className="plan-legend">
          <i className="plan-dot" /> source <i className="plan-wedge" /> listener
        </span>
      </figcaption>
    </figure>
  );
}
