'use client';

import { useState } from 'react';
import Modal from 'react-bootstrap/Modal';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { KinetikonError } from '@/core/errors';
import { compileTap } from '@/core/session/compile';
import type { Answers, Dish, Question, Recipe } from '@/core/session/recipes/recipe';
import { soundOf } from '@/core/session/prints';
import { RECIPES } from '@/core/session/recipes/recipes';
import type { SessionDocument } from '@/core/session/records';
import { problemFrom } from '../session/problems';
import { newId } from '../session/studio';
import { useStudio, useStudioState } from '../session/StudioContext';

/** What a question offers. */
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

/** The answers with which a recipe begins: the selected track, and the first of each choice. */
function firstAnswers(recipe: Recipe, document: SessionDocument, stripId: string): Answers {
  return Object.fromEntries(
    recipe.questions.map((question) => [
      question.id,
      question.kind === 'track' && document.tracks[stripId] ? stripId : (offered(question, document)[0]?.id ?? ''),
    ]),
  );
}

/** Asks a recipe's questions, shows what it will build, builds it in one step, and says what was built. */
export function RecipeDialog() {
  const studio = useStudio();
  const { document, stripId, cooking } = useStudioState(({ document, stripId, cooking }) => ({
    document,
    stripId,
    cooking,
  }));
  const [recipe, setRecipe] = useState<Recipe>(() => RECIPES.find(({ id }) => id === cooking) ?? RECIPES[0]!);
  const [answers, setAnswers] = useState(() => firstAnswers(recipe, document, stripId));
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string | null>(null);
  const [dish, setDish] = useState<Dish | null>(null);
  const close = () => studio.set({ cooking: null });
  const noTracks = document.session.trackIds.length === 0;

  const build = async () => {
    setBusy(true);
    setError(null);
    const job = studio.startJob(`Listening to ${document.tracks[answers.voice!]!.name}`);
    try {
      const plan = compileTap(document, answers.voice!);
      const phrases = await studio.worker.run(
        {
          kind: 'phrases',
          plan,
          samples: await studio.allSamples(job.signal),
          range: { fromFrame: 0, toFrame: plan.endFrame, tailSeconds: 0 },
        },
        { signal: job.signal, onProgress: job.progress },
      );
      const { document: now } = studio.state;
      const sounds = Object.values(now.clips).flatMap(({ trackId, source }) =>
        trackId === answers.voice ? (soundOf(now, source) ?? []) : [],
      );
      await Promise.all([...new Set(sounds)].map((assetId) => studio.findOnsets(assetId)));
      const { onsets } = studio.state;
      const made = recipe.build({ document: now, answers, phrases, onsets, newId });
      if (studio.perform(made.command, `Recipe: ${recipe.name}`)) {
        studio.selectStrip(made.showId);
        setDish(made);
      }
    } catch (caught) {
      if (!(caught instanceof KinetikonError && caught.code === 'work.cancelled')) {
        const { message, next } = problemFrom(caught);
        setError(`${message} ${next ?? ''}`);
      }
    } finally {
      job.end();
      setBusy(false);
    }
  };

  return (
    <Modal show onHide={close} aria-labelledby="recipe-title">
      <Modal.Header closeButton>
        <Modal.Title id="recipe-title" as="h2">
          {dish ? 'Built' : 'Recipes'}
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        {dish ? (
          <ul className="recipe-lines">
            {dish.built.map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ul>
        ) : (
          <>
            <div className="recipe-list" role="radiogroup" aria-label="Recipe">
              {RECIPES.map((one) => (
                <Button
                  bsPrefix="bare"
                  key={one.id}
                  role="radio"
                  aria-checked={one.id === recipe.id}
                  onClick={() => {
                    setRecipe(one);
                    setAnswers(firstAnswers(one, document, stripId));
                    setError(null);
                  }}
                >
                  <b>{one.name}</b>
                  <small>{one.outcome}</small>
                </Button>
              ))}
            </div>
            <div className="form-rows">
              {recipe.questions.map((question) => (
                <label key={question.id} className="recipe-question">
                  <span>{question.text}</span>
                  <Form.Select
                    value={answers[question.id]}
                    onChange={(event) => setAnswers({ ...answers, [question.id]: event.target.value })}
                  >
                    {offered(question, document).map((one) => (
                      <option key={one.id} value={one.id}>
                        {one.name}
                      </option>
                    ))}
                  </Form.Select>
                </label>
              ))}
            </div>
            {noTracks ? (
              <p>There is no track yet. Bring in a sound first.</p>
            ) : (
              <>
                <h3 className="recipe-will">It will build</h3>
                <ul className="recipe-lines">
                  {recipe.preview(document, answers).map((line) => (
                    <li key={line}>{line}</li>
                  ))}
                </ul>
              </>
            )}
            {error && (
              <p role="alert" className="form-error">
                {error}
              </p>
            )}
          </>
        )}
      </Modal.Body>
      <Modal.Footer>
        {dish ? (
          <>
            <Button
              variant="line"
              onClick={() => {
                studio.undo();
                close();
              }}
            >
              Take it back
            </Button>
            <Button
              variant="solid"
              onClick={() => {
                studio.set({ view: 'routing' });
                close();
              }}
            >
              Show it in the routing
            </Button>
          </>
        ) : (
          <Button variant="solid" disabled={busy || noTracks} onClick={() => void build()}>
            {busy ? 'Listening…' : 'Build it'}
          </Button>
        )}
      </Modal.Footer>
    </Modal>
  );
}
