import { useRef, useState } from 'react';
import { formatUnit } from '@/core/effects/units';
import type { Picture } from '@/core/analysis/pictures';
import { CurveReader } from '@/core/engine/curve';
import type { PictureKind } from '@/core/effects/spec';
import type { PlanInsert } from '@/core/engine/plan';
import { compileInserts } from '@/core/session/compile/inserts';
import type { SessionDocument } from '@/core/session/records/document';
import type { Studio } from '../../session/studio';
import { useStudio } from '../../session/StudioContext';
import type { ChartLine } from '../../ui/Chart';
import { useFrame } from '../../ui/useFrame';
import { standing } from './pictures';

/** The engine rests for so long between two pictures, in ms. */
const REST_MS = 80;

/** Courses of a picture that comes anew while the session plays, moved in place. */
class MovedCourses {
  private readonly points: { x: number; y: number }[][] = [[], []];
  readonly lines = this.points.map((points, n): ChartLine => ({
    name: 'now',
    ink: 'key',
    dashed: n > 0,
    marks: 'none',
    points,
    reading: (_, y) => `now: ${formatUnit('dB', Number(y.toFixed(1)))}`,
  }));

  move(picture: Picture | null): void {
    for (const [n, points] of this.points.entries()) {
      const y = picture?.lines[n]?.y ?? [];
      points.length = y.length;
      for (let i = 0; i < y.length; i++) points[i] = { x: picture!.x[i]!, y: y[i]! };
    }
  }
}

/** Values of an effect as automated and modulated while the session plays. */
class MovedValues {
  private of: SessionDocument | null = null;
  private insert: PlanInsert | null = null;
  private modulated: readonly number[] = [];
  private readers: readonly (readonly [index: number, reader: CurveReader])[] = [];

  constructor(
    private readonly studio: Studio,
    private readonly insertId: string,
  ) {}

  /** The effect as it is now; null where nothing moves it. */
  now(): PlanInsert | null {
    const { engine, state } = this.studio;
    if (!engine.playing) return null;
    if (this.of !== state.document) {
      this.of = state.document;
      this.insert = compileInserts(state.document, [this.insertId])[0] ?? null;
      this.modulated = (this.insert?.modulations ?? []).map(({ index }) => index);
      this.readers = (this.insert?.curves ?? []).map(({ index, curve }) => [index, new CurveReader(curve)] as const);
    }
    if (!this.insert) return null;
    if (this.readers.length + this.modulated.length === 0) return null;
    const values = [...this.insert.values];
    for (const [index, reader] of this.readers) values[index] = reader.valueAt(engine.heardFrame);
    // Those that are modulated too are told by the engine, as they are after both.
    for (const index of this.modulated) values[index] = engine.movedValue(this.insertId, index) ?? values[index]!;
    return { ...standing(this.insert), values };
  }
}

/** Pictures over an axis that stays as it is. */
const FOLLOWED: readonly PictureKind[] = ['response', 'levels', 'hysteresis', 'shape', 'burst'];
const isFollowed = (kind: PictureKind): kind is Picture['kind'] => FOLLOWED.includes(kind);

/**
 * The picture of an effect as lanes and modulators have it now: courses that are moved in place while the session
 * plays, empty where nothing moves it, and for pictures of what moves by itself.
 */
export function useMovedPicture(insertId: string, kind: PictureKind): readonly ChartLine[] {
  const studio = useStudio();
  const [courses] = useState(() => new MovedCourses());
  const [moved] = useState(() => new MovedValues(studio, insertId));
  const drawn = useRef('');
  const due = useRef(0);
  useFrame(() => {
    if (performance.now() < due.current || !isFollowed(kind)) return;
    const insert = moved.now();
    const values = insert ? insert.values.join() : '';
    if (values === drawn.current) return;
    drawn.current = values;
    if (!insert) {
      courses.move(null);
      return;
    }
    due.current = Infinity;
    void pictureOf(studio, insert, kind)
      .then(
        (picture) => courses.move(studio.engine.playing ? picture : null),
        (error: unknown) => studio.messages.report(error),
      )
      .finally(() => {
        due.current = performance.now() + REST_MS;
      });
  });
  return courses.lines;
}

async function pictureOf(studio: Studio, insert: PlanInsert, kind: Picture['kind']): Promise<Picture> {
  const inserts = [insert];
  const { signal } = new AbortController();
  const sounds = await studio.sounds.samplesFor(inserts, signal);
  const { sampleRateHz } = studio.state.document.session;
  return studio.worker.run({ kind: 'picture', picture: kind, inserts, sampleRateHz, seconds: 1, sounds }, { signal });
}
