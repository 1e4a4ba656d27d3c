'use client';

import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import ButtonGroup from 'react-bootstrap/ButtonGroup';
import Dropdown from 'react-bootstrap/Dropdown';
import Form from 'react-bootstrap/Form';
import { placed } from '@/core/session/stagePlacement';
import { channels } from '@/core/session/records/queries';
import type { SessionRecord } from '@/core/session/records/session';
import { putOnStage } from '../session/staging';
import { useStudio, useStudioState } from '../session/StudioContext';
import { Plan } from './Plan';
import { ThingBar } from './ThingBar';

const STAGES = [
  ['speakers', 'Speakers', 'Things are put between two speakers by level'],
  ['headphones', 'Headphones', 'Things are put around the head: by what reaches either ear, also behind and above'],
] as const;

const LAWS = [
  ['3', '−3 dB'],
  ['4.5', '−4.5 dB'],
  ['6', '−6 dB'],
] as const;

/** Seen from above: the listener in the middle, and where everything on the stage stands and moves. */
export function StageView() {
  const studio = useStudio();
  const { stage, panLaw, count } = useStudioState(({ document }) => ({
    stage: document.session.stage,
    panLaw: document.session.panLaw,
    count: placed(document).length,
  }));
  const waiting = useStudioState(({ document }) => channels(document).filter(({ placeId }) => placeId === null));
  const [snap, setSnap] = useState(false);
  const [drawing, setDrawing] = useState(false);
  const set = (values: Partial<Pick<SessionRecord, 'stage' | 'panLaw'>>, label: string) =>
    studio.editor.perform({ type: 'session.set', values }, label);
  return (
    <div className="stage-view">
      <header className="effect-head">
        <h2>Stage</h2>
        <ButtonGroup aria-label="Heard through">
          {STAGES.map(([id, name, help]) => (
            <Button
              key={id}
              variant="line"
              aria-pressed={stage === id}
              data-help={help}
              onClick={() => set({ stage: id }, `Stage for ${name.toLowerCase()}`)}
            >
              {name}
            </Button>
          ))}
        </ButtonGroup>
        {stage === 'speakers' && (
          <label
            className="choice"
            data-help="How loud a thing in the middle is on each speaker, beside one that is at a side"
          >
            <span>Centre level</span>
            <Form.Select
              aria-label="Pan law"
              value={panLaw}
              onChange={(event) => set({ panLaw: event.target.value as SessionRecord['panLaw'] }, 'Pan law')}
            >
              {LAWS.map(([id, name]) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </Form.Select>
          </label>
        )}
        <Form.Check
          type="switch"
          id="stage-snap"
          label="Angles in steps of 15°"
          checked={snap}
          onChange={(event) => setSnap(event.target.checked)}
        />
        {waiting.length > 0 && (
          <Dropdown align="end" className="stage-add">
            <Dropdown.Toggle variant="line" bsPrefix="preset-toggle">
              Place on the stage
            </Dropdown.Toggle>
            <Dropdown.Menu>
              {waiting.map((strip) => (
                <Dropdown.Item key={strip.id} as="button" type="button" onClick={() => putOnStage(studio, [strip])}>
                  {strip.name}
                </Dropdown.Item>
              ))}
              {waiting.length > 1 && (
                <>
                  <Dropdown.Divider />
                  <Dropdown.Item as="button" type="button" onClick={() => putOnStage(studio, waiting)}>
                    All of them
                  </Dropdown.Item>
                </>
              )}
            </Dropdown.Menu>
          </Dropdown>
        )}
      </header>
      <Plan snap={snap} drawing={drawing} onDrawn={() => setDrawing(false)} empty={count === 0} />
      <ThingBar drawing={drawing} onDraw={() => setDrawing(!drawing)} />
    </div>
  );
}
