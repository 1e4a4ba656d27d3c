'use client';

import { useMemo } from 'react';
import Button from 'react-bootstrap/Button';
import { effectById } from '@/core/effects/registry';
import { findParameter, type EffectSpec, type Preset } from '@/core/effects/spec';
import type { ParameterValues } from '@/core/effects/values';
import { stripOf, timingOf } from '@/core/session/records/queries';
import type { Insert } from '@/core/session/records/inserts';
import { addEffect } from '../session/effectWork';
import { useStudio, useStudioState } from '../session/StudioContext';
import { Drawer } from '../controls/Drawer';
import { CurvePicture } from './pictures/CurvePicture';
import { EchogramMini } from './pictures/EchogramPicture';
import { Mini, shownLines } from './pictures/MiniPicture';
import { longestSpan, useEchogramAt, usePicture } from './pictures/pictures';

const EXAMPLES = 2;

/** Presets of an effect that say what to listen for: those to begin with. */
export const examplesOf = ({ presets }: EffectSpec): readonly Preset[] =>
  presets.filter(({ help }) => help !== undefined).slice(0, EXAMPLES);

/** Page of an effect: its purpose, picture, main controls, and two examples to try. */
export function EffectPage() {
  const studio = useStudio();
  const { spec, stripName } = useStudioState(({ about, document, stripId }) => ({
    spec: effectById(about),
    stripName: stripOf(document, stripId)!.name,
  }));
  const attempt = (preset: Preset) => {
    const { document, insertId, stripId } = studio.state;
    const there = insertId !== null && document.inserts[insertId]?.effect === spec.id ? insertId : null;
    if (there === null) addEffect(studio, stripId, spec, preset.values);
    else
      studio.editor.perform({ type: 'insert.set', id: there, values: preset.values }, `${spec.name}: ${preset.name}`);
    studio.set({ view: 'effect' });
  };
  return (
    <Drawer title={`About ${spec.name}`}>
      <p>{spec.purpose}</p>
      <EffectPictureAt key={spec.id} spec={spec} values={{}} large />
      <h3>Two to try</h3>
      {examplesOf(spec).map((preset) => (
        <section key={preset.id} className="example" aria-label={preset.name}>
          <h4>
            {preset.name} <small>{preset.purpose.toLowerCase()}</small>
          </h4>
          <EffectPictureAt spec={spec} values={preset.values} />
          <p>{preset.help}</p>
          <Button variant="line" aria-label={`Try it on ${stripName}: ${preset.name}`} onClick={() => attempt(preset)}>
            Try it on {stripName}
          </Button>
        </section>
      ))}
      <h3>Its main controls</h3>
      <dl className="control-helps">
        {spec.main.map((id) => {
          const { name, help } = findParameter(spec, id)!;
          return (
            <div key={id}>
              <dt>{name}</dt>
              <dd>{help}</dd>
            </div>
          );
        })}
      </dl>
    </Drawer>
  );
}

/** The picture of an effect with some of its values, whether it is in the session or not. */
function EffectPictureAt(props: { spec: EffectSpec; values: ParameterValues; large?: boolean }) {
  const { spec, values, large = false } = props;
  const insert: Insert = {
    id: `about ${spec.id}`,
    effect: spec.id,
    bypass: false,
    values,
    inputs: {},
    notesFrom: null,
  };
  if (spec.picture === 'echogram') return <EchoAt insert={insert} />;
  return large ? <LargeAt insert={insert} name={spec.name} /> : <MiniAt insert={insert} />;
}

function EchoAt({ insert }: { insert: Insert }) {
  const timing = useStudioState(({ document }) => timingOf(document));
  const span = useStudioState(({ document }) => longestSpan(document));
  return <EchogramMini echogram={useEchogramAt(insert, insert.values, span)} timing={timing} />;
}

function MiniAt({ insert }: { insert: Insert }) {
  return <Mini picture={usePicture(insert)} />;
}

function LargeAt({ insert, name }: { insert: Insert; name: string }) {
  const picture = usePicture(insert);
  const shown = useMemo(() => picture && { ...picture, lines: shownLines(picture) }, [picture]);
  return <CurvePicture picture={shown} height={180} label={`${name} as it comes`} />;
}
