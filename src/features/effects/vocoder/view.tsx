'use client';

import { useMemo, useRef, useState } from 'react';
import Form from 'react-bootstrap/Form';
import { bandCentres, MOST_BANDS, SPACINGS, type BandLayout } from '@/core/dsp/bandLayout';
import { vocoderSpec } from '@/core/effects/vocoder/spec';
import { defaultValues } from '@/core/effects/spec';
import type { Command } from '@/core/session/commands';
import { channelOf } from '@/core/session/records/queries';
import type { Insert } from '@/core/session/records/inserts';
import { useStudio, useStudioState } from '../../session/StudioContext';
import { decibels, frequencyAxis, minus } from '../../ui/axes';
import { Chart, type ChartLine, type Ink } from '../../ui/Chart';
import { useFrame } from '../../ui/useFrame';
import type { EffectExtras } from '../extras';
import { SoundingKeys } from '../pictures/SoundingKeys';
import { warningsOf } from './vocoderWarnings';

const LEVELS = decibels(-80, 0, 20, 'dB');
const FLOOR = -80;
/** Display frames between two looks at what is wrong. */
const FRAMES_APART = 20;
const COURSES: readonly (readonly [string, Ink, boolean])[] = [
  ['voice', 'dry', false],
  ['carrier', 'key', true],
  ['output', 'wet', false],
];

function layoutOf(insert: Insert): BandLayout {
  const values = { ...defaultValues(vocoderSpec), ...insert.values };
  return {
    bands: Math.round(Number(values.bands)),
    order: Number(values.order),
    spacing: SPACINGS.find((one) => one === values.spacing) ?? 'bark',
    lowHz: Number(values.low),
    highHz: Number(values.high),
    bandwidth: Number(values.bandwidth),
  };
}

/** Levels of voice, carrier and output by band, live; which notes sound; and what keeps the words from being understood. */
function BandsPicture({ insert }: { readonly insert: Insert }) {
  const studio = useStudio();
  const layout = JSON.stringify(layoutOf(insert));
  const hz = useMemo(() => bandCentres(JSON.parse(layout) as BandLayout), [layout]);
  const courses = useMemo(() => COURSES.map(() => hz.map((x) => ({ x, y: FLOOR }))), [hz]);
  const lines = useMemo(
    () =>
      COURSES.map(([name, ink, dashed], n): ChartLine => ({
        name,
        ink,
        dashed,
        marks: n === 2 ? 'bars' : 'none',
        points: courses[n]!,
        reading: (x, y) => `${name}: ${minus(y.toFixed(0))} dB at ${Math.round(x)} Hz`,
      })),
    [courses],
  );
  const values = { ...defaultValues(vocoderSpec), ...insert.values };
  const same = values.carrier === 'key' && insert.inputs.key === undefined;
  const frame = useRef(0);
  const [warnings, setWarnings] = useState<readonly string[]>([]);
  useFrame(() => {
    const read = (course: number, band: number) =>
      studio.engine.meterValue(insert.id, 'bands', course * MOST_BANDS + band);
    courses.forEach((points, course) =>
      points.forEach((point, band) => {
        point.y = Math.max(FLOOR, read(course, band) ?? FLOOR);
      }),
    );
    if (frame.current++ % FRAMES_APART !== 0) return;
    const [voice, carrier] = courses.map((points) => points.map(({ y }) => (y <= FLOOR ? -120 : y)));
    const found = studio.engine.playing || same ? warningsOf({ hz, voice: voice!, carrier: carrier! }, same) : [];
    setWarnings((now) => (now.join() === found.join() ? now : found));
  });
  const frozen = values.freeze === true;
  const held = hz.filter((one) => one >= Number(values.freezeLow) && one <= Number(values.freezeHigh));
  return (
    <figure className="curve-picture">
      <Chart x={frequencyAxis} y={LEVELS} lines={[]} live={lines} height={240} label="Vocoder: levels by band, live" />
      <figcaption>
        {COURSES.map(([name], n) => (
          <span key={name} className={`legend legend-${['dry', 'key', 'wet'][n]!}`}>
            {name}
          </span>
        ))}
        {frozen && (
          <b>
            {held.length === 0
              ? 'no band is frozen'
              : `frozen: ${held.length} bands, ${Math.round(held[0]!)} to ${Math.round(held.at(-1)!)} Hz`}
          </b>
        )}
      </figcaption>
      {values.carrier === 'synth' ? (
        <SoundingKeys insertId={insert.id} effect="vocoder" />
      ) : (
        <CarrierMute insert={insert} />
      )}
      {warnings.map((warning) => (
        <p key={warning} className="vocoder-warns" role="status">
          {warning}
        </p>
      ))}
    </figure>
  );
}

/** Lets the carrier's own sound be heard, or only what it speaks. */
function CarrierMute({ insert }: { readonly insert: Insert }) {
  const studio = useStudio();
  const input = insert.inputs.key;
  const strip = useStudioState(({ document }) => (input ? channelOf(document, input.stripId) : undefined));
  if (!input || !strip) return <p className="sounding-keys">Choose the carrier below.</p>;
  const muted = strip.mute;
  return (
    <Form.Check
      type="switch"
      id={`mute ${insert.id}`}
      label={`${strip.name} itself is silent`}
      checked={muted}
      onChange={() => {
        // Behind the fader a muted track gives nothing to speak with.
        const before: Command = {
          type: 'insert.input',
          id: insert.id,
          slot: 'key',
          from: { ...input, tap: 'beforeFader' },
        };
        const set: Command = { type: 'strip.set', id: strip.id, values: { mute: !muted } };
        studio.editor.perform(
          { type: 'all', commands: muted ? [set] : [before, set] },
          `Mute the carrier ${strip.name}`,
        );
      }}
    />
  );
}

export const vocoderView: EffectExtras = { Picture: BandsPicture, pictureName: 'Bands' };
