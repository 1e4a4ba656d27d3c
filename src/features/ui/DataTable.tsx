'use client';

import { useMemo, useRef, type ReactNode } from 'react';
import {
  createSortedRowModel,
  rowSortingFeature,
  sortFn_alphanumeric,
  sortFn_text,
  tableFeatures,
  useTable,
  type ColumnDef,
} from '@tanstack/react-table';
import Button from 'react-bootstrap/Button';
import Table from 'react-bootstrap/Table';
import { useRowsInSight } from './useRowsInSight';

const features = tableFeatures({
  rowSortingFeature,
  sortedRowModel: createSortedRowModel(),
  sortFns: { alphanumeric: sortFn_alphanumeric, text: sortFn_text },
});

/** A column: what it is sorted by, and how it is shown where that is not the same. */
export interface DataColumn<Row> {
  readonly id: string;
  readonly head: string;
  /** Help for the column, where its head is not enough. */
  readonly help?: string;
  /** Nothing stands last, whichever way it is sorted. */
  readonly value: (row: Row) => string | number | undefined;
  readonly cell?: (row: Row) => ReactNode;
}

/** Columns and row ids of a table, defined once outside of the component. */
export interface DataShape<Row> {
  /** The first names the row. */
  readonly columns: readonly DataColumn<Row>[];
  readonly idOf: (row: Row) => string;
}

interface Props<Row> {
  readonly label: string;
  readonly shape: DataShape<Row>;
  readonly rows: readonly Row[];
  /** The row that is marked. */
  readonly current?: string;
}

const ORDERS = { asc: 'ascending', desc: 'descending' } as const;

/** Rows of figures, sorted by the head that is pressed. */
export function DataTable<Row extends object>({ label, shape, rows, current }: Props<Row>) {
  const columns = useMemo(
    () =>
      shape.columns.map(({ id, head, value }): ColumnDef<typeof features, Row> => ({
        id,
        header: head,
        accessorFn: value,
        sortUndefined: 'last',
      })),
    [shape],
  );
  const table = useTable({ features, columns, data: rows, getRowId: shape.idOf });
  const sides = useMemo(() => shape.columns.map((column) => figures(rows, column)), [shape, rows]);
  const body = useRef<HTMLTableSectionElement>(null);
  const sorted = table.getRowModel().rows;
  const { above, below, indices, measure } = useRowsInSight(body, sorted.length);
  return (
    <Table size="sm" className="data-table" aria-label={label} aria-rowcount={sorted.length + 1}>
      <thead>
        {table.getHeaderGroups().map((group) => (
          <tr key={group.id}>
            {group.headers.map(({ id, column }, n) => {
              const order = column.getIsSorted();
              return (
                <th
                  key={id}
                  scope="col"
                  aria-sort={order ? ORDERS[order] : undefined}
                  data-help={shape.columns[n]!.help}
                  className={sides[n]}
                >
                  <Button bsPrefix="bare" onClick={column.getToggleSortingHandler()}>
                    {shape.columns[n]!.head}
                    <span aria-hidden="true">{order ? (order === 'asc' ? ' ▴' : ' ▾') : ''}</span>
                  </Button>
                </th>
              );
            })}
          </tr>
        ))}
      </thead>
      <tbody ref={body}>
        {above > 0 && <tr style={{ height: above }} aria-hidden="true" />}
        {indices.map((index) => {
          const { id, original } = sorted[index]!;
          return (
            <tr
              key={id}
              ref={measure}
              data-index={index}
              aria-rowindex={index + 2}
              aria-current={id === current ? true : undefined}
            >
              {shape.columns.map((column, n) => {
                const shown = column.cell ? column.cell(original) : column.value(original);
                const side = sides[n];
                return n === 0 ? (
                  <th key={column.id} scope="row" className={side}>
                    {shown}
                  </th>
                ) : (
                  <td key={column.id} className={side}>
                    {shown}
                  </td>
                );
              })}
            </tr>
          );
        })}
        {below > 0 && <tr style={{ height: below }} aria-hidden="true" />}
      </tbody>
    </Table>
  );
}

/** Figures stand at the right. */
const figures = <Row,>(rows: readonly Row[], { value }: DataColumn<Row>) =>
  rows.some((row) => typeof value(row) === 'number') ? 'figure' : undefined;
