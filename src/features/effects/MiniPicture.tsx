'use client';

import type { Insert } from '@/core/session/records';
import { pathOf } from './axes';
import { usePicture } from './usePicture';

const WIDTH = 272;
const HEIGHT = 40;

/** The picture of an effect, small. */
export function MiniPicture({ insert }: { insert: Insert }) {
  const picture = usePicture(insert);
  return (
    <svg className="mini-picture" viewBox={`0 0 ${WIDTH} ${HEIGHT}`} preserveAspectRatio="none" aria-hidden="true">
      <line x1="0" x2={WIDTH} y1={HEIGHT / 2} y2={HEIGHT / 2} />
      {picture?.lines.map((line, index) => (
        <path key={line.name} className={`line-${index}`} d={pathOf(picture, line.y, WIDTH, HEIGHT)} />
      ))}
    </svg>
  );
}
