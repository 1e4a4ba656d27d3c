'use client';

import type { Picture } from '@/core/analysis/pictures';
import { useInsert } from '../../session/useRecords';
import { pathOf } from './axes';
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
      <line x1="0" x2={WIDTH} y1={HEIGHT / 2} y2={HEIGHT / 2} />
      {shownLines(picture).map((line, index) => (
        <path key={line.name} className={`line-${index % 2}`} d={pathOf(picture!, line.y, WIDTH, HEIGHT)} />
      ))}
    </svg>
  );
}

/** The still part of a moving picture: the beginning of a sweep, the delays of copies. */
export function shownLines(picture: Picture | null): Picture['lines'] {
  if (!picture) return [];
  if (picture.kind === 'comb') return picture.lines.slice(0, 2);
  return picture.kind === 'delays' ? picture.lines.slice(0, picture.lines.length / 2) : picture.lines;
}
