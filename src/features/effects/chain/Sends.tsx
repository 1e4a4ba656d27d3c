'use client';

import { EarOff, Plus, X } from 'lucide-react';
import Dropdown from 'react-bootstrap/Dropdown';
import Button from 'react-bootstrap/Button';
import { effectById, EFFECTS } from '@/core/effects/registry';
import { wetValues } from '@/core/effects/spec';
import type { Command } from '@/core/session/commands';
import { allStrips } from '@/core/session/records/queries';
import { newSend } from '@/core/session/records/factories';
import type { Return, Send, Track } from '@/core/session/records/strips';
import { freeName } from '@/core/session/freeName';
import { connectionsOf, reachOf } from '@/core/session/routing';
import { MUTE_PARAMETER, SEND_GAIN_PARAMETER } from '@/core/session/stripParameters';
import { newId } from '../../session/newId';
import { useStudio, useStudioState } from '../../session/StudioContext';
import { AutomatedRuler } from '../../controls/AutomatedRuler';
import { LaneButton } from '../../controls/LaneButton';

/** Effects that a new return can have: the usual ones first, then all others with a mix. */
const FOR_RETURNS = [
  ...EFFECTS.filter(({ suitsReturns }) => suitsReturns),
  ...EFFECTS.filter(({ suitsReturns, parameters }) => !suitsReturns && parameters.some(({ id }) => id === 'mix')),
];

/** Sends of a strip. */
export function Sends({ strip }: { strip: Track | Return }) {
  const studio = useStudio();
  const sends = useStudioState(({ document: { sends, session } }) =>
    Object.values(sends)
      .filter((send) => send.fromId === strip.id)
      .sort((a, b) => session.returnIds.indexOf(a.toId) - session.returnIds.indexOf(b.toId)),
  );
  const names = useStudioState(({ document }) => sends.map(({ toId }) => document.returns[toId]?.name ?? ''));
  const free = useStudioState(({ document }) => {
    const feeding = reachOf(new Set([strip.id]), connectionsOf(document), true);
    return document.session.returnIds
      .map((id) => document.returns[id]!)
      .filter((one) => one.role === 'return' && !feeding.has(one.id) && !sends.some((send) => send.toId === one.id));
  });
  const sendTo = (toId: string, name: string) =>
    studio.editor.perform(
      { type: 'send.add', send: newSend(newId(), strip.id, toId) },
      `Send ${strip.name} to ${name}`,
    );
  const sendToNew = (effect: string, kind: string) => {
    const taken = new Set(allStrips(studio.state.document).map(({ name }) => name));
    const name = freeName(taken, kind, (attempt) => (attempt === 1 ? '' : ` ${attempt}`));
    const id = newId();
    const insertId = newId();
    const commands: Command[] = [
      { type: 'return.add', id, name, role: 'return' },
      { type: 'insert.add', stripId: id, id: insertId, effect, index: 0, values: wetValues(effectById(effect)) },
      { type: 'send.add', send: newSend(newId(), strip.id, id) },
    ];
    studio.editor.perform({ type: 'all', commands }, `Send ${strip.name} to a new return`);
  };
  return (
    <section className="step" aria-label="Sends">
      <h3>
        Sends
        <span className="step-tools">
          <Dropdown align="end">
            <Dropdown.Toggle variant="plain" bsPrefix="add-effect">
              <Plus size={12} aria-hidden="true" /> send
            </Dropdown.Toggle>
            <Dropdown.Menu>
              {free.map((one) => (
                <Dropdown.Item key={one.id} as="button" type="button" onClick={() => sendTo(one.id, one.name)}>
                  {one.name}
                </Dropdown.Item>
              ))}
              <Dropdown.Header>To a new return with</Dropdown.Header>
              {FOR_RETURNS.map((spec) => (
                <Dropdown.Item key={spec.id} as="button" type="button" onClick={() => sendToNew(spec.id, spec.name)}>
                  {spec.name}
                </Dropdown.Item>
              ))}
            </Dropdown.Menu>
          </Dropdown>
        </span>
      </h3>
      {sends.length === 0 && <p className="empty-hint">None. A send shares one return’s effects with other tracks.</p>}
      {sends.map((send, n) => (
        <SendRow key={send.id} send={send} strip={strip} name={names[n]!} />
      ))}
    </section>
  );
}

function SendRow({ send, strip, name }: { send: Send; strip: Track | Return; name: string }) {
  const studio = useStudio();
  const set = (values: Partial<Send>, label: string) =>
    studio.editor.perform({ type: 'send.set', id: send.id, values }, label);
  const after = send.tap === 'afterFader';
  return (
    <div className={`send ${send.mute ? 'step-bypassed' : ''}`}>
      <AutomatedRuler
        ownerId={send.id}
        parameter={{ ...SEND_GAIN_PARAMETER, name: `to ${name}` }}
        ownerName={strip.name}
        signal="wet"
      />
      <div className="send-tools">
        <Button
          variant="plain"
          aria-label={`Send to ${name}: ${after ? 'after' : 'before'} the fader`}
          title={
            after ? 'Follows the fader; press to take it before' : 'The same wherever the fader is; press to follow it'
          }
          onClick={() => set({ tap: after ? 'beforeFader' : 'afterFader' }, `Send to ${name}: tap`)}
        >
          {after ? 'after fader' : 'before fader'}
        </Button>
        <Button
          variant="icon"
          aria-label={`Hear ${strip.name} only through ${name}`}
          title="Hear it only through this return: the send goes before the fader, the fader down"
          onClick={() =>
            studio.editor.perform(
              {
                type: 'all',
                commands: [
                  { type: 'send.set', id: send.id, values: { tap: 'beforeFader' } },
                  { type: 'strip.set', id: strip.id, values: { gainDb: -100 } },
                ],
              },
              `Hear ${strip.name} only through ${name}`,
            )
          }
        >
          <EarOff size={13} aria-hidden="true" />
        </Button>
        <Button
          bsPrefix="flag"
          aria-pressed={send.mute}
          aria-label={`Mute the send to ${name}`}
          title="Mute"
          onClick={() => set({ mute: !send.mute }, `${send.mute ? 'Open' : 'Mute'} the send to ${name}`)}
        >
          M
        </Button>
        <LaneButton ownerId={send.id} parameter={MUTE_PARAMETER} name={`Mute of the send to ${name}`} />
        <Button
          variant="icon"
          aria-label={`Remove the send to ${name}`}
          title="Remove"
          onClick={() => studio.editor.perform({ type: 'send.remove', id: send.id }, `Remove the send to ${name}`)}
        >
          <X size={13} aria-hidden="true" />
        </Button>
      </div>
    </div>
  );
}
