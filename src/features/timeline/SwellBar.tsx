'use client';

import Button from 'react-bootstrap/Button';
import ButtonGroup from 'react-bootstrap/ButtonGroup';
import Form from 'react-bootstrap/Form';
import { effectById } from '@/core/effects/registry';
import type { NumberParameter, ParameterValue } from '@/core/effects/spec';
import { FADE_SHAPES } from '@/core/math/fades';
import { CHAIN_PRESETS } from '@/core/session/chainPresets';
import type { Command } from '@/core/session/commands';
import { chainSpace, presetSpace, spaceAsReturn } from '@/core/swells/makeSwell';
import { landingBeat, soundPlace, type PlacedPrint } from '@/core/session/prints';
import { beatsPerBar } from '@/core/session/records/queries';
import { newSend } from '@/core/session/records/factories';
import type { Clip } from '@/core/session/records/clips';
import type { Return } from '@/core/session/records/strips';
import type { SwellRecipe, SwellSpace } from '@/core/session/records/prints';
import { SWELL_PARAMETERS, swellValues, type SwellParameterId } from '@/core/swells/swellParameters';
import { newId } from '../session/newId';
import { insertBars } from '../session/timeWork';
import { useStudio, useStudioState } from '../session/StudioContext';
import { usePrintState } from '../session/usePrintState';
import { useTiming } from '../session/useRecords';
import { Ruler } from '../ui/Ruler';

const SPACES = ['reverb', 'convolution'].map((id) => effectById(id));
const STATE_WORDS = {
  fresh: 'up to date',
  stale: 'out of date',
  computing: 'rendering…',
  failed: 'could not be made',
} as const;
const RULERS = ['source', 'length', 'fadeIn', 'gap', 'level', 'tone', 'width'] as const;
const parameterOf = (id: SwellParameterId) => SWELL_PARAMETERS.find((one) => one.id === id)!;

/** A position as bar and beat. */
function placeText(beat: number, perBar: number): string {
  const bar = Math.floor(beat / perBar + 1e-9);
  return `${bar + 1}.${(beat - bar * perBar + 1).toFixed(2)}`;
}

/** The space as the list of them names it. */
function spaceKey(space: SwellSpace): string {
  if (space.kind === 'return') return `return ${space.returnId}`;
  return `own ${space.inserts.map(({ effect }) => effect).join('+')} ${space.inserts[0]?.id ?? ''}`;
}

interface Space {
  readonly key: string;
  readonly title: string;
  readonly space: () => SwellSpace;
}

/** Spaces for a swell, under headings. */
function spacesOf(returns: readonly Return[]): (readonly [heading: string, spaces: readonly Space[]])[] {
  const presets = SPACES.map(({ id, name, presets: all }): readonly [string, readonly Space[]] => [
    name,
    all.map((preset) => ({
      key: `own ${id} ${preset.id}`,
      title: preset.name,
      space: () => presetSpace(id, preset.id),
    })),
  ]);
  const chains = CHAIN_PRESETS.map((preset) => ({
    key: spaceKey(chainSpace(preset)),
    title: preset.name,
    space: () => chainSpace(preset),
  }));
  const linked = returns.map((one) => ({
    key: `return ${one.id}`,
    title: one.name,
    space: () => ({ kind: 'return' as const, returnId: one.id }),
  }));
  return [
    ...(linked.length > 0 ? [['As a return of this session', linked] as const] : []),
    ...presets,
    ['Chains', chains],
  ];
}

interface Props {
  readonly clip: Clip;
  readonly print: PlacedPrint & { recipe: SwellRecipe };
}

/** Changes of a swell's recipe as commands. */
function useSwellChange({ id, recipe }: Props['print']) {
  const word = useStudioState(({ document }) => document.clips[recipe.clipId]!);
  const command = (more: Partial<SwellRecipe>): Command => ({
    type: 'print.set',
    id,
    recipe: { ...recipe, ...more },
  });
  const change = (more: Record<string, ParameterValue>) => command({ values: { ...recipe.values, ...more } });
  return { word, name: `Swell into ${word.name}`, command, change };
}

/** Everything about a swell: where it lands, what it rings in, how it grows. */
export function SwellBar(parts: Props) {
  const { clip, print } = parts;
  const studio = useStudio();
  const document = useStudioState((state) => state.document);
  const state = usePrintState(print.id) ?? 'stale';
  const { name, change } = useSwellChange(print);
  return (
    <div className="swell-bar" role="group" aria-label={name}>
      <div className="swell-row">
        <b>{name}</b>
        <span className={`swell-state swell-${state}`} role="status">
          lands at {placeText(landingBeat(document, print), beatsPerBar(document.session))}, {STATE_WORDS[state]}
        </span>
        {state === 'failed' && (
          <Button variant="plain" onClick={() => void studio.prints.renew(print.id)}>
            Try again
          </Button>
        )}
        <SpaceChoice {...parts} />
        <FeedChoice {...parts} />
        <Button
          variant="plain"
          disabled={print.made === null}
          title="Unlinks it from its source: a clip like any other from now on"
          onClick={() => studio.editor.perform({ type: 'print.unlink', id: print.id }, `Unlink ${clip.name}`)}
        >
          Unlink
        </Button>
      </div>
      <SwellRoom
        print={print}
        onLength={(length) => studio.editor.perform(change({ ring: false, length }), `${name}: length`)}
      />
      <SwellRulers {...parts} />
    </div>
  );
}

/** The space that a swell rings in, and the way to all its controls. */
function SpaceChoice({ print }: Props) {
  const studio = useStudio();
  const document = useStudioState((state) => state.document);
  const { recipe } = print;
  const { name, command } = useSwellChange(print);
  const returns = Object.values(document.returns).filter(({ role }) => role === 'return');
  const openSpace = () => {
    const { space } = recipe;
    const returnId = space.kind === 'return' ? space.returnId : newId();
    if (space.kind === 'own') {
      if (!studio.editor.perform(spaceAsReturn(document, print.id, returnId, newId), `${name}: space as a return`))
        return;
    }
    studio.selection.selectStrip(returnId);
    studio.set({ view: 'effect' });
  };
  const key = spaceKey(recipe.space);
  const spaces = spacesOf(returns);
  const choices = spaces.flatMap(([, all]) => all);
  const known = choices.some(({ key: one }) => one === key);
  return (
    <>
      <label className="lane-field">
        <span>space</span>
        <Form.Select
          size="sm"
          aria-label="Space of the swell"
          value={known ? key : ''}
          onChange={(event) => {
            const chosen = choices.find((one) => one.key === event.target.value);
            if (chosen) studio.editor.perform(command({ space: chosen.space() }), `${name}: ${chosen.title}`);
          }}
        >
          {!known && <option value="">Its own</option>}
          {spaces.map(([group, all]) => (
            <optgroup key={group} label={group}>
              {all.map(({ key: one, title }) => (
                <option key={one} value={one}>
                  {title}
                </option>
              ))}
            </optgroup>
          ))}
        </Form.Select>
      </label>
      <Button variant="plain" title="All its controls, on a return of its own" onClick={openSpace}>
        Open space
      </Button>
    </>
  );
}

/** The return that a swell is fed into besides. */
function FeedChoice({ clip, print }: Props) {
  const studio = useStudio();
  const document = useStudioState((state) => state.document);
  const { name } = useSwellChange(print);
  const returns = Object.values(document.returns).filter(({ role }) => role === 'return');
  const fed = Object.values(document.sends).find(
    ({ fromId, toId }) => fromId === clip.trackId && document.returns[toId],
  );
  const feed = (returnId: string) => {
    const commands: Command[] = [
      ...(fed ? [{ type: 'send.remove' as const, id: fed.id }] : []),
      ...(returnId === '' ? [] : [{ type: 'send.add' as const, send: newSend(newId(), clip.trackId, returnId) }]),
    ];
    if (commands.length > 0) studio.editor.perform({ type: 'all', commands }, `${name}: fed into a return`);
  };
  return (
    <label className="lane-field">
      <span>also into</span>
      <Form.Select
        size="sm"
        aria-label="Return that the swell is fed into"
        value={fed?.toId ?? ''}
        onChange={(event) => feed(event.target.value)}
      >
        <option value="">nothing</option>
        {returns.map((one) => (
          <option key={one.id} value={one.id}>
            {one.name}
          </option>
        ))}
      </Form.Select>
    </label>
  );
}

/** Source of a swell (word or phrase), its rulers and its fade. */
function SwellRulers({ print }: Props) {
  const studio = useStudio();
  const timing = useTiming();
  const { word, name, change } = useSwellChange(print);
  const { recipe } = print;
  const values = swellValues(recipe.values);
  const ruler = (id: (typeof RULERS)[number]) => {
    const parameter = parameterOf(id) as NumberParameter;
    return (
      <Ruler
        parameter={parameter}
        value={values[id] ?? parameter.default}
        timing={timing}
        signal="wet"
        context="Swell"
        onPreview={(value) => studio.editor.preview(change({ [id]: value }), `${name}: ${parameter.name}`)}
        onSettle={() => studio.editor.settle()}
        onCancel={() => studio.editor.abandon()}
      />
    );
  };
  const phrase = word.lengthSeconds - soundPlace(word, recipe.landSeconds);
  const wholePhrase = values.over === true;
  return (
    <div className="swell-rulers">
      <ButtonGroup className="swell-ways" aria-label="What feeds it">
        <Button
          variant="plain"
          aria-pressed={!wholePhrase}
          title="The word grows out of silence and ends where it begins"
          onClick={() => studio.editor.perform(change({ over: false, source: 0.4 }), `${name}: the word`)}
        >
          Word
        </Button>
        <Button
          variant="plain"
          aria-pressed={wholePhrase}
          title="Every word has its reversed space, also under the phrase"
          onClick={() =>
            studio.editor.perform(change({ over: true, source: Math.max(0.05, phrase) }), `${name}: the whole phrase`)
          }
        >
          Phrase
        </Button>
      </ButtonGroup>
      {RULERS.map((id) => (
        <div key={id} className={`swell-ruler ${id === 'length' && values.ring ? 'swell-idle' : ''}`}>
          {ruler(id)}
        </div>
      ))}
      <div className="swell-shape">
        <Form.Check
          type="switch"
          id={`ring-${print.id}`}
          label={parameterOf('ring').name}
          data-help={parameterOf('ring').help}
          checked={values.ring === true}
          onChange={(event) => studio.editor.perform(change({ ring: event.target.checked }), `${name}: length`)}
        />
      </div>
      <label className="lane-field" data-help={parameterOf('fadeShape').help}>
        <span>fade</span>
        <Form.Select
          size="sm"
          aria-label="Shape of the swell's fade"
          value={String(values.fadeShape)}
          onChange={(event) => studio.editor.perform(change({ fadeShape: event.target.value }), `${name}: fade shape`)}
        >
          {FADE_SHAPES.map((shape) => (
            <option key={shape}>{shape}</option>
          ))}
        </Form.Select>
      </label>
    </div>
  );
}

/** Says when a swell would begin before the session does, and what can be done about it. */
function SwellRoom({ print, onLength }: { readonly print: PlacedPrint; readonly onLength: (seconds: number) => void }) {
  const studio = useStudio();
  const { roomSeconds, perBar, tempoBpm } = useStudioState(({ document }) => ({
    roomSeconds: (landingBeat(document, print) * 60) / document.session.tempoBpm,
    perBar: beatsPerBar(document.session),
    tempoBpm: document.session.tempoBpm,
  }));
  const shortest = (parameterOf('length') as NumberParameter).min;
  const takesSeconds = print.made?.landSeconds ?? shortest;
  const missingSeconds = takesSeconds - roomSeconds;
  if (missingSeconds < 0.001) return null;
  const bars = Math.ceil((missingSeconds * tempoBpm) / 60 / perBar);
  return (
    <div className="swell-row swell-room" role="status">
      <span>
        {roomSeconds < shortest
          ? 'There is no room before its landing: the session begins there.'
          : `It takes ${takesSeconds.toFixed(2)} s, and there are ${roomSeconds.toFixed(2)} s before its landing: its beginning is cut.`}
      </span>
      {roomSeconds >= shortest && (
        <Button variant="line" onClick={() => onLength(Math.floor(roomSeconds * 1000) / 1000)}>
          Make it {roomSeconds.toFixed(2)} s long
        </Button>
      )}
      <Button
        variant="line"
        title="All tracks, notes, lanes and sections begin later"
        onClick={() => insertBars(studio, 0, bars)}
      >
        Insert {bars === 1 ? 'a bar' : `${bars} bars`} at the start
      </Button>
    </div>
  );
}
