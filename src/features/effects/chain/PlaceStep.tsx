'use client';

import { Power } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import { controlsOf, defaultValues, isActive } from '@/core/effects/spec';
import { effectById } from '@/core/effects/registry';
import { isFollowed, PLACE_EFFECT, placeValues } from '@/core/session/stagePlacement';
import { channelOf } from '@/core/session/records/queries';
import type { Return, Track } from '@/core/session/records/strips';
import { useStudio, useStudioState } from '../../session/StudioContext';
import { ParameterControl } from '../ParameterControl';

const SPEC = effectById(PLACE_EFFECT);
/** For things on the stage the session's rendering applies. */
const SESSIONS = ['render', 'law'];

/** Stage controls of a strip: the main ones, or all of them in the stage view. */
export function PlaceStep({ strip, whole }: { readonly strip: Track | Return; readonly whole: boolean }) {
  const studio = useStudio();
  const placeId = strip.placeId!;
  const shown = useStudioState(({ document }) => {
    const values = { ...defaultValues(SPEC), ...placeValues(document, strip) };
    return controlsOf(SPEC)
      .filter((one) => isActive(one, values) && !SESSIONS.includes(one.id) && !isFollowed(strip, one.id))
      .filter(({ id }) => whole || SPEC.main.includes(id))
      .map(({ id }) => id);
  });
  const { bypass, leader } = useStudioState(({ document }) => ({
    bypass: document.inserts[placeId]!.bypass,
    leader: strip.oppositeOf === null ? null : channelOf(document, strip.oppositeOf)!.name,
  }));
  const controls = controlsOf(SPEC).filter(({ id }) => shown.includes(id));
  const groups = [...new Set(controls.map(({ group }) => group))];
  return (
    <section className={`step ${bypass ? 'step-bypassed' : ''}`} aria-label="Place">
      <h3>
        <Button bsPrefix="step-name" title="Open the stage" onClick={() => studio.set({ view: 'stage' })}>
          Place
        </Button>
        <span className="step-tools">
          <Button
            variant="icon"
            aria-pressed={bypass}
            aria-label={`Bypass the place of ${strip.name}`}
            title={bypass ? 'Bypassed: press to hear it in its place' : 'Bypass'}
            onClick={() =>
              studio.editor.perform(
                { type: 'insert.bypass', id: placeId, bypass: !bypass },
                `${bypass ? 'Hear' : 'Bypass'} the place of ${strip.name}`,
              )
            }
          >
            <Power size={13} aria-hidden="true" />
          </Button>
        </span>
      </h3>
      {leader !== null && <p className="step-item">Where it is and how it moves: the mirror image of {leader}</p>}
      {groups.map((group) => (
        <div key={group} role="group" aria-label={group}>
          {whole && <h4 className="step-group">{group}</h4>}
          {controls
            .filter((one) => one.group === group)
            .map((parameter) => (
              <ParameterControl key={parameter.id} insertId={placeId} parameter={parameter} context="Place" />
            ))}
        </div>
      ))}
    </section>
  );
}
