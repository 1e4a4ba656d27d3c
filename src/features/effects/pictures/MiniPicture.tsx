'use client';

import type { Picture } from '@/core/analysis/pictures';
import { useInsert } from '../../session/useRecords';
import type { ChartAxis } from '../../ui/axes';
import { axesOf, pathOf } from './axes';
import { usePicture } from './pictures';

const WIDTH = 272;
const HEIGHT = 40;

/** The picture of an effect in the signal path, small. */
export function MiniPicture({ insertId }: { insertId: string }) {
  return <Mini picture={usePicture(useInsert(insertId)!)} />;
}

/** A picture without its axes. */
export function Mini({ picture }: { picture: Picture | null }) {
  return (
    <svg className="mini-picture" viewBox={`0 0 ${WIDTH} ${HEIGHT}`} preserveAspectRatio="none" aria-hidden="true">
      {picture && <title>{rangesOf(picture)}</title>}
      <line x1="0" x2={WIDTH} y1={HEIGHT / 2} y2={HEIGHT / 2} />
      {shownLines(picture).map((line, index) => (
        <path key={line.name} className={`line-${index % 2}`} d={pathOf(picture!, line.y, WIDTH, HEIGHT)} />
      ))}
    </svg>
  );
}

/** Ranges of both axes, in words. */
function rangesOf(picture: Picture): string {
  const { x, y } = axesOf(picture);
  const range = ({ min, max, word, title }: ChartAxis) => `${word(min)} to ${word(max)} ${title}`;
  return `Across ${range(x)}, up ${range(y)}`;
}

/** The still part of a moving picture: the beginning of a sweep, the delays of copies. */
export function shownLines(picture: Picture | null): Picture['lines'] {
  if (!picture) return [];
  if (picture.kind === 'comb') return picture.lines.slice(0, 2);
  return picture.kind === 'delays' ? picture.lines.slice(0, picture.lines.length / 2) : picture.lines;
}
