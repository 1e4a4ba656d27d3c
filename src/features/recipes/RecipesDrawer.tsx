'use client';

import { useState } from 'react';
import Accordion from 'react-bootstrap/Accordion';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { isCancelled } from '@/core/errors';
import { compileTap } from '@/core/session/compile/parts';
import { soundOf } from '@/core/session/prints';
import {
  voiceName,
  wholeBars,
  type Answers,
  type Dish,
  type RecipeContext,
  type Question,
  type Recipe,
} from '@/core/session/recipes/recipe';
import { RECIPES } from '@/core/session/recipes/recipes';
import { beatsPerBar } from '@/core/session/records/queries';
import type { SessionDocument } from '@/core/session/records/document';
import { scaleOf } from '@/core/session/scales';
import { errorText } from '../session/notifications';
import type { RunningJob } from '../session/jobs';
import { newId } from '../session/newId';
import type { Studio } from '../session/studio';
import { useStudio, useStudioState } from '../session/StudioContext';
import { Drawer } from '../controls/Drawer';
import { RecipePicture } from './RecipePicture';

/** Answers that a question offers. */
function offered(question: Question, { session, tracks, sections }: SessionDocument) {
  switch (question.kind) {
    case 'track':
      return session.trackIds.map((id) => ({ id, name: tracks[id]!.name }));
    case 'section':
      return Object.values(sections)
        .sort((a, b) => a.startBeat - b.startBeat)
        .map(({ id, name }) => ({ id, name }));
    case 'choice':
      return question.choices;
  }
}

/**
 * Answers to all questions: those chosen, else a default. Defaults are the selected track (a second question takes
 * another one), the section that the recipe prefers, and the first of each choice.
 */
function answersNow(recipe: Recipe, document: SessionDocument, stripId: string, chosen: Answers): Answers {
  const answers: Record<string, string> = {};
  for (const question of recipe.questions) {
    const choices = offered(question, document);
    const free = choices.filter(({ id }) => !Object.values(answers).includes(id));
    const [first] = question.kind === 'choice' || free.length === 0 ? choices : free;
    const wanted = question.kind === 'section' ? question.preselect?.(document) : stripId;
    const selected = free.find(({ id }) => id === wanted) ?? first;
    const answer = choices.find(({ id }) => id === chosen[question.id]) ?? selected;
    answers[question.id] = answer?.id ?? '';
  }
  return answers;
}

/** Whole arrangements for an outcome: each asks a few questions, shows what it will build, and builds it in one step. */
export function RecipesDrawer() {
  const studio = useStudio();
  const { cooking, empty } = useStudioState(({ document, cooking }) => ({
    cooking: cooking ?? RECIPES[0]!.id,
    empty: document.session.trackIds.length === 0,
  }));
  return (
    <Drawer title="Recipes">
      {empty ? (
        <p className="empty-hint">There is no track yet. Bring in a sound first.</p>
      ) : (
        <Accordion
          flush
          activeKey={cooking}
          onSelect={(key) => studio.set({ cooking: typeof key === 'string' ? key : '' })}
        >
          {RECIPES.map((recipe) => (
            <Accordion.Item key={recipe.id} eventKey={recipe.id}>
              <Accordion.Header as="h3">
                <span>
                  <b>{recipe.name}</b>
                  <small>{recipe.outcome}</small>
                </span>
              </Accordion.Header>
              <Accordion.Body>{recipe.id === cooking && <Cooking recipe={recipe} />}</Accordion.Body>
            </Accordion.Item>
          ))}
        </Accordion>
      )}
    </Drawer>
  );
}

/** The chords that a track plays, bar by bar; none for no track. */
async function chordsOf(
  studio: Studio,
  trackId: string | null,
  { signal, progress }: RunningJob,
): Promise<RecipeContext['chords']> {
  if (trackId === null) return [];
  const { document } = studio.state;
  const { session } = document;
  const plan = compileTap(document, trackId);
  const perBar = beatsPerBar(session);
  const seconds = (bar: number) => (bar * perBar * 60) / session.tempoBpm;
  return studio.worker.run(
    {
      kind: 'chords',
      plan,
      samples: await studio.sounds.allPlayed(signal),
      range: { fromFrame: 0, toFrame: plan.endFrame, tailSeconds: 0 },
      stretches: Array.from({ length: wholeBars(document) / perBar }, (_, bar) => ({
        from: seconds(bar),
        to: seconds(bar + 1),
      })),
      scale: scaleOf(session),
    },
    { signal, onProgress: progress },
  );
}

/** An open recipe: its questions, what it will build, and what it has built. */
function Cooking({ recipe }: { recipe: Recipe }) {
  const studio = useStudio();
  const { document, stripId } = useStudioState(({ document, stripId }) => ({ document, stripId }));
  const [chosen, setChosen] = useState<Answers>({});
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string | null>(null);
  /** The built result, and the number of its step. */
  const [built, setBuilt] = useState<{ dish: Dish; steps: number } | null>(null);
  const answers = answersNow(recipe, document, stripId, chosen);
  const asked = recipe.questions.filter(({ when }) => !when || answers[when.id] === when.is);
  const steps = useStudioState(({ history }) => history.past.length);

  const build = async () => {
    setBusy(true);
    setError(null);
    try {
      await studio.jobs.track(`Listening to ${voiceName(document, answers)}`, cook);
    } catch (caught) {
      if (!isCancelled(caught)) setError(errorText(caught));
    } finally {
      setBusy(false);
    }
  };

  const cook = async (job: RunningJob) => {
    const plan = compileTap(document, answers.voice!);
    const { regions, ...phrases } = await studio.worker.run(
      {
        kind: 'phrases',
        plan,
        samples: await studio.sounds.allPlayed(job.signal),
        range: { fromFrame: 0, toFrame: plan.endFrame, tailSeconds: 0 },
      },
      { signal: job.signal, onProgress: job.progress },
    );
    const { document: now } = studio.state;
    const sounds = Object.values(now.clips).flatMap(({ trackId, source }) =>
      trackId === answers.voice ? (soundOf(now, source) ?? []) : [],
    );
    await Promise.all([...new Set(sounds)].map((assetId) => studio.sounds.findOnsets(assetId)));
    const { onsets } = studio.state;
    const chords = await chordsOf(studio, recipe.chordsOf?.(answers) ?? null, job);
    const dish = recipe.build({ document: now, answers, phrases, regions, onsets, chords, newId });
    if (studio.editor.perform(dish.command, `Recipe: ${recipe.name}`)) {
      setBuilt({ dish, steps: studio.state.history.past.length });
      setChosen(answers);
      studio.selection.selectStrip(dish.showId);
    }
  };

  if (built && steps >= built.steps) {
    return (
      <>
        <h4>Built</h4>
        <Lines lines={built.dish.built} />
        <div className="recipe-acts">
          {steps === built.steps && (
            <Button variant="line" onClick={() => studio.editor.undo()}>
              Take it back
            </Button>
          )}
          <Button variant="solid" onClick={() => studio.set({ view: 'routing' })}>
            Show it in the routing
          </Button>
          <Button variant="line" onClick={() => setBuilt(null)}>
            Build another
          </Button>
        </div>
      </>
    );
  }
  return (
    <>
      {asked.map((question) => (
        <Form.Group key={question.id} controlId={`recipe-${question.id}`} className="recipe-question">
          <Form.Label>{question.text}</Form.Label>
          <Form.Select
            value={answers[question.id]}
            onChange={(event) => setChosen({ ...chosen, [question.id]: event.target.value })}
          >
            {offered(question, document).map((one) => (
              <option key={one.id} value={one.id}>
                {one.name}
              </option>
            ))}
          </Form.Select>
        </Form.Group>
      ))}
      <h4>It will build</h4>
      <RecipePicture voice={voiceName(document, answers)} strips={recipe.sketch(document, answers)} />
      <Lines lines={recipe.preview(document, answers)} />
      {error && (
        <p role="alert" className="form-error">
          {error}
        </p>
      )}
      <div className="recipe-acts">
        <Button variant="solid" disabled={busy} onClick={() => void build()}>
          {busy ? 'Listening…' : 'Build it'}
        </Button>
      </div>
    </>
  );
}

function Lines({ lines }: { lines: readonly string[] }) {
  return (
    <ul className="recipe-lines">
      {lines.map((line) => (
        <li key={line}>{line}</li>
      ))}
    </ul>
  );
}
