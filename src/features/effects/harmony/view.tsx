'use client';

import { useMemo, useRef, useState } from 'react';
import { MOST_HARMONIES, SCALE_CHOICES } from '@/core/effects/harmony/spec';
import { chosenScale } from '@/core/effects/scaleKeys';
import { keyOfHz } from '@/core/math/keys';
import { TONICS } from '@/core/session/records/session';
import type { Insert } from '@/core/session/records/inserts';
import { scaleOf } from '@/core/session/scales';
import { useStudio, useStudioState } from '../../session/StudioContext';
import { roundTicks } from '../../ui/axes';
import { Chart } from '../../ui/Chart';
import { useFrame } from '../../ui/useFrame';
import type { EffectExtras } from '../extras';
import { PitchCourse } from './pitchCourse';

const SPAN_SECONDS = 8;
const NAMES = ['source', ...Array.from({ length: MOST_HARMONIES }, (_, n) => `voice ${n + 1}`)];

const BEGIN_KEY = 62;

const keysOf = (scale: string) => scale.split(',').map(Number);
const keyOf = (hz: number | null) => (hz === null || !(hz > 0) ? NaN : keyOfHz(hz));

/** Keys of the scale that an effect sings in: the session's, or its own. */
function useScale(insert: Insert): readonly number[] {
  const session = useStudioState(({ document }) => document.session);
  const { key = 'session', scale = 'session' } = insert.values;
  const [name] = SCALE_CHOICES.find(([id]) => id === scale) ?? SCALE_CHOICES[0];
  const tonic = TONICS.findIndex((one) => one === key);
  return chosenScale(tonic < 0 ? null : tonic, name === 'session' ? null : name, scaleOf(session));
}

/** Another loop or another key starts the drawing anew. */
function PitchPicture({ insert }: { readonly insert: Insert }) {
  const { loopOn, from, seconds } = useStudioState(({ document: { session } }) => ({
    loopOn: session.loopOn,
    from: session.loopStartBeat,
    seconds: session.loopOn ? ((session.loopEndBeat - session.loopStartBeat) * 60) / session.tempoBpm : SPAN_SECONDS,
  }));
  const scale = useScale(insert).join();
  return <Pitches key={`${seconds} ${scale}`} {...{ insert, loopOn, from, seconds, scale }} />;
}

/** Pitches of the source and the voices on the lines of the key: over the loop where there is one, else the last seconds. */
function Pitches(props: {
  readonly insert: Insert;
  readonly loopOn: boolean;
  readonly from: number;
  readonly seconds: number;
  readonly scale: string;
}) {
  const { insert, loopOn, from, seconds, scale } = props;
  const studio = useStudio();
  const tempo = useStudioState(({ document }) => document.session.tempoBpm);
  const [course, setCourse] = useState(() => new PitchCourse(NAMES, seconds, keysOf(scale), BEGIN_KEY));
  const time = useMemo(() => {
    const { ticks, digits } = roundTicks(0, seconds, 6);
    const word = (value: number) => value.toFixed(digits);
    return { title: 's', min: 0, max: seconds, scale: 'linear' as const, ticks, word };
  }, [seconds]);
  const heard = useRef<number[]>([]);
  useFrame(() => {
    if (!studio.engine.playing) return;
    const keys = NAMES.map((_, n) => keyOf(studio.engine.meterValue(insert.id, 'pitch', n)));
    const second = ((studio.transport.heardBeat - (loopOn ? from : 0)) * 60) / tempo;
    course.put(loopOn ? second : second % seconds, keys);
    if (Number.isNaN(keys[0]!)) return;
    // The picture moves to the median pitch of 90 frames in which the voice sang.
    const sung = keys.filter((key) => !Number.isNaN(key));
    heard.current.push((Math.min(...sung) + Math.max(...sung)) / 2);
    if (heard.current.length < 90) return;
    const sorted = heard.current.sort((a, b) => a - b);
    heard.current = [];
    const found = Math.round(sorted[sorted.length >> 1]!);
    const middle = (course.keys.min + course.keys.max) / 2;
    if (Math.abs(found - middle) > 3) setCourse(new PitchCourse(NAMES, seconds, keysOf(scale), found, course));
  });
  const used = NAMES.slice(1).filter((_, n) =>
    n === 0 ? insert.values['voices.1.on'] !== false : insert.values[`voices.${n + 1}.on`] === true,
  );
  return (
    <figure className="curve-picture">
      <Chart
        x={time}
        y={course.keys}
        lines={[]}
        live={course.lines}
        height={300}
        label="Harmonies: pitch of the source and of each voice over time, on the lines of the key"
      />
      <figcaption>
        <span className="legend legend-dry">source</span>
        {used.map((name) => (
          <span key={name} className={`legend legend-course-${Number(name.slice(-1)) - 1}`}>
            {name}
          </span>
        ))}
        <span>dots: sung beside the key</span>
        <span>{loopOn ? 'over the loop' : `the last ${SPAN_SECONDS} seconds`}</span>
      </figcaption>
    </figure>
  );
}

export const harmonyView: EffectExtras = { Picture: PitchPicture, pictureName: 'Pitch' };
