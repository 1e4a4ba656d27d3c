import { Ear } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { LISTENING_PLACES } from '@/core/listening/catalogue';
import type { SessionRecord } from '@/core/session/records/session';
import { useStudio, useStudioState } from '../session/StudioContext';
import { useSessionChange } from './useSessionChange';

/** Switches for wet only and for bypassing all effects. */
export function HearSwitches({ session }: { readonly session: SessionRecord }) {
  const set = useSessionChange();
  return (
    <div className="field">
      <span>listen</span>
      <span className="field-pair">
        <Button
          variant="icon"
          aria-pressed={session.wetOnly}
          aria-label="Wet only"
          title={session.wetOnly ? 'Only returns are heard: press for all' : 'Hear only what comes through returns'}
          onClick={() => set({ wetOnly: !session.wetOnly }, session.wetOnly ? 'Hear all' : 'Hear wet only')}
        >
          wet only
        </Button>
        <Button
          variant="icon"
          aria-pressed={session.effectsOff}
          aria-label="Bypass all effects"
          title={
            session.effectsOff ? 'All effects are bypassed: press to hear them' : 'Bypass all effects of the session'
          }
          onClick={() =>
            set({ effectsOff: !session.effectsOff }, session.effectsOff ? 'Hear all effects' : 'Bypass all effects')
          }
        >
          bypass all
        </Button>
      </span>
    </div>
  );
}

/** Writing of automation while the session plays. */
export function WriteSwitches() {
  const studio = useStudio();
  const { armed, punch } = useStudioState(({ armed, punch }) => ({ armed, punch }));
  return (
    <div className="field">
      <span>automation</span>
      <span className="field-pair">
        <Button
          variant="icon"
          className={armed ? 'armed' : undefined}
          aria-pressed={armed}
          aria-label="Write automation"
          title={
            armed
              ? 'Moving a control while playing writes its lane: press to end'
              : 'Write lanes by moving controls while playing'
          }
          onClick={() => studio.set({ armed: !armed })}
        >
          write
        </Button>
        {(armed || punch) && (
          <Button
            variant="icon"
            aria-pressed={punch}
            aria-label="In the loop only: write automation"
            title="Write only between the ends of the loop"
            onClick={() => studio.set({ punch: !punch })}
          >
            in the loop only
          </Button>
        )}
      </span>
    </div>
  );
}

/** The listening place; other than plain it says that bounces leave it out. */
export function ListeningChoice() {
  const studio = useStudio();
  const { listening, open } = useStudioState(({ listening, drawer }) => ({ listening, open: drawer === 'listening' }));
  const plain = listening === LISTENING_PLACES[0]!.id;
  return (
    <div className={`field ${plain ? '' : 'listening-elsewhere'}`}>
      <span>{plain ? 'listening place' : 'not in a bounce'}</span>
      <span className="field-pair">
        <Form.Select
          aria-label="Listening place"
          value={listening}
          onChange={(event) => void studio.monitor.listenAt(event.target.value)}
        >
          {LISTENING_PLACES.map(({ id, name }, n) => (
            <option key={id} value={id}>
              {`${n + 1} ${name}`}
            </option>
          ))}
        </Form.Select>
        <Button
          variant="icon"
          aria-expanded={open}
          aria-label="About listening places"
          title="What each place takes away"
          onClick={() => studio.set({ drawer: open ? null : 'listening' })}
        >
          <Ear size={14} aria-hidden="true" />
        </Button>
      </span>
    </div>
  );
}
