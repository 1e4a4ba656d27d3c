'use client';

import { useState, type KeyboardEvent, type ReactNode } from 'react';
import Button from 'react-bootstrap/Button';
import {
  allFeed,
  ARRANGEMENTS,
  feedsOf,
  inputFeed,
  lineFeed,
  LINES,
  toMatrix,
  type Arrangement,
  type Feeds,
} from '@/core/effects/delay/routing';
import { delaySpec } from '@/core/effects/delay/spec';
import { findParameter, type ChoiceParameter } from '@/core/effects/spec';
import type { Insert } from '@/core/session/records/inserts';
import { useStudio } from '../../session/StudioContext';
import { DelayFlow } from './DelayFlow';
import { ParameterControl } from '../ParameterControl';

const ROUTING = findParameter(delaySpec, 'routing') as ChoiceParameter;

/** A place of the matrix: how much of a source goes into a line. */
interface Cell {
  readonly id: string;
  readonly name: string;
  readonly gain: number;
}

/** Gains between the lines in use at the delay's values. */
export function feedsNow(insert: Insert): { feeds: Feeds; on: boolean[]; arrangement: Arrangement } {
  const value = (id: string) => insert.values[id] ?? findParameter(delaySpec, id)!.default;
  const on = Array.from({ length: LINES }, (_, line) => value(`lines.${line + 1}.on`) === true);
  const arrangement = value('routing') as Arrangement;
  return { feeds: feedsOf(arrangement, on, (id) => Number(value(id))), on, arrangement };
}

/**
 * Routing between the lines: ready arrangements, a matrix, and a drawing of the flow.
 * @param children controls that belong to all lines
 */
export function DelayRouting({ insert, children }: { insert: Insert; children?: ReactNode }) {
  const studio = useStudio();
  const [chosen, setChosen] = useState<string | null>(null);
  const { feeds, on, arrangement } = feedsNow(insert);
  const used = on.flatMap((one, line) => (one ? [line] : []));
  const feedback = (line: number) =>
    Number(
      insert.values[`lines.${line + 1}.feedback`] ?? findParameter(delaySpec, `lines.${line + 1}.feedback`)!.default,
    ) / 100;

  const rows: { name: string; cells: Cell[] }[] = [
    {
      name: 'Input',
      cells: used.map((target) => ({
        id: inputFeed(target),
        name: `Input into line ${target + 1}`,
        gain: feeds.input[target]!,
      })),
    },
    {
      name: 'All',
      cells: used.map((target) => ({
        id: allFeed(target),
        name: `All lines into line ${target + 1}`,
        gain: feeds.all[target]!,
      })),
    },
    ...used.map((source) => ({
      name: `Line ${source + 1}`,
      cells: used.map((target) =>
        source === target
          ? { id: `lines.${target + 1}.feedback`, name: `Line ${target + 1} into itself`, gain: feedback(target) }
          : {
              id: lineFeed(source, target),
              name: `Line ${source + 1} into line ${target + 1}`,
              gain: feeds.lines[target]![source]!,
            },
      ),
    })),
  ];

  /** The current routing as an own matrix. */
  const withCell = (id: string, percent: number) =>
    arrangement === 'matrix' || id.endsWith('.feedback')
      ? { [id]: percent }
      : { ...toMatrix(feeds), routing: 'matrix', [id]: percent };
  const setCell = (cell: Cell, percent: number, drag: boolean) => {
    const limited = Math.max(-110, Math.min(110, Math.round(percent)));
    const command = { type: 'insert.set', id: insert.id, values: withCell(cell.id, limited) } as const;
    if (drag) studio.editor.preview(command, `Delay: ${cell.name}`);
    else studio.editor.perform(command, `Delay: ${cell.name}`);
  };
  const onKeyDown = (event: KeyboardEvent, cell: Cell) => {
    const step = { ArrowUp: 5, ArrowRight: 5, ArrowDown: -5, ArrowLeft: -5 }[event.key];
    if (step === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    setCell(cell, cell.gain * 100 + (event.shiftKey ? step / 5 : step), true);
  };

  const cell = rows.flatMap((row) => row.cells).find((one) => one.id === chosen);
  const editable = cell && (arrangement === 'matrix' || cell.id.endsWith('.feedback'));
  return (
    <section className="delay-routing" aria-label="Flow">
      <div className="arrangements" role="group" aria-label="Arrangement of the lines">
        {ARRANGEMENTS.map((one) => (
          <Button
            key={one}
            variant="line"
            aria-pressed={arrangement === one}
            onClick={() =>
              studio.editor.perform(
                {
                  type: 'insert.set',
                  id: insert.id,
                  values: one === 'matrix' ? { ...toMatrix(feeds), routing: one } : { routing: one },
                },
                `Delay: ${ROUTING.choices.find(({ id }) => id === one)!.name}`,
              )
            }
          >
            {ROUTING.choices.find(({ id }) => id === one)!.name}
          </Button>
        ))}
      </div>
      <div className="delay-routing-both">
        <table className="matrix" aria-label="What goes into which line">
          <thead>
            <tr>
              <td>into</td>
              {used.map((target) => (
                <th key={target} scope="col" className={`line-shade-${target + 1}`}>
                  {target + 1}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.name}>
                <th scope="row">{row.name}</th>
                {row.cells.map((one) => (
                  <td key={one.id}>
                    <Button
                      bsPrefix="bare"
                      aria-pressed={one.id === chosen}
                      aria-label={`${one.name}: ${Math.round(one.gain * 100)} %`}
                      title="Double-click for nothing or all, arrow keys for more or less"
                      className={one.gain === 0 ? 'cell-closed' : one.gain < 0 ? 'cell-turned' : 'cell-open'}
                      style={{ '--gain': Math.min(1, Math.abs(one.gain)) } as React.CSSProperties}
                      onClick={() => setChosen(one.id)}
                      onDoubleClick={() => setCell(one, one.gain === 0 ? 100 : 0, false)}
                      onKeyDown={(event) => onKeyDown(event, one)}
                      onKeyUp={() => studio.editor.settle()}
                    >
                      {one.gain === 0 ? '·' : Math.round(one.gain * 100)}
                    </Button>
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
        <DelayFlow feeds={feeds} used={used} feedback={feedback} />
        {children}
      </div>
      {cell && editable && <ParameterControl insertId={insert.id} parameter={findParameter(delaySpec, cell.id)!} />}
      {cell && !editable && (
        <p className="empty-hint">
          {cell.name} belongs to the arrangement.{' '}
          <Button variant="line" onClick={() => setCell(cell, cell.gain * 100, false)}>
            Make it a custom matrix
          </Button>
        </p>
      )}
    </section>
  );
}
