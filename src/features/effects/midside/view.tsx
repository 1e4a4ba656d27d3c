'use client';

import { useMemo, useState } from 'react';
import Button from 'react-bootstrap/Button';
import { adviceOn, type Advice } from '@/core/analysis/midsideAdvice';
import type { CrossSpectra } from '@/core/analysis/stereoField';
import { midsideSpec, PATHS } from '@/core/effects/midside/spec';
import { pathTransfer, type Figure } from '@/core/effects/midside/transfer';
import { resolveValues } from '@/core/effects/resolve';
import { findParameter, type ToggleParameter } from '@/core/effects/spec';
import { timingOf } from '@/core/session/records/queries';
import type { Insert } from '@/core/session/records/inserts';
import { useStudio, useStudioState } from '../../session/StudioContext';
import { decibels, frequencyAxis, placeOn } from '../../ui/axes';
import { StereoScope } from '../../controls/StereoScope';
import type { EffectExtras } from '../extras';
import { ParameterControl } from '../ParameterControl';
import './midside.css';

type Path = (typeof PATHS)[number];

/** As the matrix stands: a row for what goes out, a column for what comes in. */
const CELLS = (['mid', 'side'] as const).map((to) => PATHS.filter((path) => path.to === to));
const FLAGS = [
  ['polarity', '−', 'Invert'],
  ['solo', 'S', 'Solo'],
  ['mute', 'M', 'Mute'],
] as const;

const WIDTH = 200;
const HEIGHT = 44;
const POINTS = 120;
const LEVEL = decibels(-36, 12, 12, 'dB');

/** The values of an effect as its kernel takes them, by id. */
function useFigure(insert: Insert): Figure {
  const timing = JSON.stringify(useStudioState(({ document }) => timingOf(document)));
  return useMemo(() => {
    const resolved = resolveValues(midsideSpec, insert.values, JSON.parse(timing));
    const places = new Map(midsideSpec.parameters.map(({ id }, n) => [id, n]));
    return (id) => resolved[places.get(id)!]!;
  }, [insert.values, timing]);
}

/** The four ways as the matrix that they are, and the field that comes of it. */
function MatrixPicture({ insert }: { readonly insert: Insert }) {
  const figure = useFigure(insert);
  const rate = useStudioState(({ document }) => document.session.sampleRateHz);
  const [heard, setHeard] = useState<CrossSpectra | null>(null);
  const advice = useMemo(() => (heard ? adviceOn(heard, figure, rate) : []), [heard, figure, rate]);
  return (
    <div className="picture-beside">
      <div className="matrix-cells" role="group" aria-label="Paths between middle and sides">
        {CELLS.flat().map((path) => (
          <Cell
            key={path.id}
            insert={insert}
            path={path}
            figure={figure}
            blamed={advice.some((one) => one.path === path.id)}
          />
        ))}
        <AdviceList advice={advice} heard={heard !== null} />
      </div>
      <StereoScope targetId={insert.id} label="Field before and after" onField={({ before }) => setHeard(before)} />
    </div>
  );
}

function Cell(props: {
  readonly insert: Insert;
  readonly path: Path;
  readonly figure: Figure;
  /** Something is said of it. */
  readonly blamed: boolean;
}) {
  const { insert, path, figure, blamed } = props;
  const studio = useStudio();
  const silent = figure(`${path.id}.gain`) <= -100 || figure(`${path.id}.mute`) !== 0;
  const turn = (key: (typeof FLAGS)[number][0]) => {
    const id = `${path.id}.${key}`;
    const parameter = findParameter(midsideSpec, id)!;
    const on = figure(id) !== 0;
    const value = key === 'polarity' ? (on ? 'positive' : 'negative') : !on;
    studio.controls.turnOnce(insert.id, parameter as ToggleParameter, value, `${path.name}: ${parameter.name}`);
  };
  return (
    <section
      className={`matrix-cell ${silent ? 'matrix-silent' : ''} ${blamed ? 'matrix-blamed' : ''}`}
      aria-label={path.name}
    >
      <header>
        <h3>{path.name}</h3>
        {FLAGS.map(([key, sign, word]) => (
          <Button
            key={key}
            bsPrefix="flag"
            aria-pressed={figure(`${path.id}.${key}`) !== 0}
            aria-label={`${word} ${path.name.toLowerCase()}`}
            title={word}
            onClick={() => turn(key)}
          >
            {sign}
          </Button>
        ))}
      </header>
      <PathCurve path={path} figure={figure} />
      {(['gain', 'delay'] as const).map((key) => (
        <ParameterControl
          key={key}
          insertId={insert.id}
          parameter={findParameter(midsideSpec, `${path.id}.${key}`)!}
          {...(key === 'delay' ? { context: path.name } : {})}
        />
      ))}
    </section>
  );
}

/** Frequency response of a path. */
function PathCurve({ path, figure }: { readonly path: Path; readonly figure: Figure }) {
  const rate = useStudioState(({ document }) => document.session.sampleRateHz);
  const transfer = pathTransfer(path.id, figure, rate);
  const points = Array.from({ length: POINTS }, (_, n) => {
    const hz = Math.min(20 * 1000 ** (n / (POINTS - 1)), 0.49 * rate);
    const { re, im } = transfer(hz);
    const y = placeOn(LEVEL, 20 * Math.log10(Math.hypot(re, im) + 1e-9));
    return `${(placeOn(frequencyAxis, hz) * WIDTH).toFixed(1)} ${((1 - Math.max(0, y)) * HEIGHT).toFixed(1)}`;
  });
  const zero = (1 - placeOn(LEVEL, 0)) * HEIGHT;
  return (
    <svg className="mini-picture" viewBox={`0 0 ${WIDTH} ${HEIGHT}`} preserveAspectRatio="none" aria-hidden="true">
      <line x1="0" x2={WIDTH} y1={zero} y2={zero} />
      <path className="line-0" d={`M${points.join('L')}`} />
    </svg>
  );
}

function AdviceList({ advice, heard }: { readonly advice: readonly Advice[]; readonly heard: boolean }) {
  return (
    <div className="matrix-advice" role="status" aria-label="What this setting does to the field">
      {advice.map(({ kind, text }) => (
        <p key={kind}>{text}</p>
      ))}
      {advice.length === 0 && (
        <p className="matrix-fine">
          {heard ? 'No imbalance, hollow centre or mono loss.' : 'Press Play to check balance, centre and mono.'}
        </p>
      )}
    </div>
  );
}

const inCells = ['gain', 'delay', 'polarity', 'solo', 'mute'];

export const midsideView: EffectExtras = {
  withScope: true,
  Picture: MatrixPicture,
  pictureName: 'Matrix',
  shows: (id) => inCells.some((key) => PATHS.some((path) => id === `${path.id}.${key}`)),
};
