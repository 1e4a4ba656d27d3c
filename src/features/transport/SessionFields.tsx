import { useRef } from 'react';
import { Repeat } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { KinetikonError } from '@/core/errors';
import { beatsPerBar } from '@/core/session/records/queries';
import { MODES, TEMPO, TONICS, type SessionRecord } from '@/core/session/records/session';
import { useStudio } from '../session/StudioContext';
import { EditableText } from '../ui/EditableText';
import { useSessionChange } from './useSessionChange';

const TAP_RESET_MS = 2500;
const METRES = [
  [2, 4],
  [3, 4],
  [4, 4],
  [5, 4],
  [6, 4],
  [7, 4],
  [3, 8],
  [5, 8],
  [6, 8],
  [7, 8],
  [9, 8],
  [12, 8],
] as const;

export function Tempo({ tempo }: { tempo: number }) {
  const set = useSessionChange();
  const taps = useRef<number[]>([]);
  const tap = () => {
    const now = performance.now();
    const last = taps.current.at(-1);
    taps.current = last !== undefined && now - last < TAP_RESET_MS ? [...taps.current, now].slice(-8) : [now];
    if (taps.current.length < 3) return;
    const mean = (now - taps.current[0]!) / (taps.current.length - 1);
    set({ tempoBpm: Math.max(TEMPO.min, Math.min(TEMPO.max, Math.round(600000 / mean) / 10)) }, 'Tempo');
  };
  return (
    <span className="field">
      <span>tempo</span>
      <span className="field-pair">
        <EditableText
          label="Tempo in beats a minute"
          text={String(tempo)}
          width={44}
          onTyped={(text) => set({ tempoBpm: Number(text.replace(',', '.')) }, 'Tempo')}
        />
        <Button variant="line" className="tap" title="Tap three times or more in tempo" onClick={tap}>
          tap
        </Button>
      </span>
    </span>
  );
}

export function MetreAndKey({ session }: { readonly session: SessionRecord }) {
  const set = useSessionChange();
  return (
    <>
      <label className="field">
        <span>metre</span>
        <Form.Select
          aria-label="Metre"
          value={`${session.metreBeats}/${session.metreUnit}`}
          onChange={(event) => {
            const [metreBeats, metreUnit] = event.target.value.split('/').map(Number) as [number, number];
            set({ metreBeats, metreUnit }, 'Metre');
          }}
        >
          {METRES.map(([beats, unit]) => (
            <option key={`${beats}/${unit}`}>{`${beats}/${unit}`}</option>
          ))}
        </Form.Select>
      </label>
      <label className="field">
        <span>key</span>
        <span className="field-pair">
          <Form.Select
            aria-label="Tonic"
            value={session.keyTonic}
            onChange={(event) => set({ keyTonic: event.target.value as (typeof TONICS)[number] }, 'Key')}
          >
            {TONICS.map((tonic) => (
              <option key={tonic}>{tonic}</option>
            ))}
          </Form.Select>
          <Form.Select
            aria-label="Mode"
            value={session.keyMode}
            onChange={(event) => set({ keyMode: event.target.value as (typeof MODES)[number] }, 'Key')}
          >
            {MODES.map((mode) => (
              <option key={mode}>{mode}</option>
            ))}
          </Form.Select>
        </span>
      </label>
    </>
  );
}

export function Loop({ session }: { session: SessionRecord }) {
  const studio = useStudio();
  const perBar = beatsPerBar(session);
  const set = useSessionChange();
  const bar = (beat: number) => String(Number((beat / perBar + 1).toFixed(2)));
  /** Takes a bar up where it leaves the loop a start before its end, and says so where it does not. */
  const take = (text: string, loopOf: (beat: number) => Pick<SessionRecord, 'loopStartBeat' | 'loopEndBeat'>) => {
    const beat = (Number(text.replace(',', '.')) - 1) * perBar;
    const loop = loopOf(beat);
    if (beat >= 0 && loop.loopEndBeat > loop.loopStartBeat) {
      if (set(loop, 'Loop')) studio.messages.settled('loop');
      return;
    }
    const range =
      loop.loopStartBeat === session.loopStartBeat
        ? `an end behind its start, bar ${bar(session.loopStartBeat)}`
        : `a start from bar 1 to before its end, bar ${bar(session.loopEndBeat)}`;
    studio.messages.report(
      new KinetikonError('parameter.range', `The loop takes ${range}, not "${text}".`, {
        kept: 'Nothing was changed.',
      }),
      'loop',
    );
  };
  return (
    <span className="field">
      <span>loop, bars</span>
      <span className="field-pair">
        <Button
          variant="icon"
          aria-label="Loop"
          aria-pressed={session.loopOn}
          title="Loop: o"
          onClick={() => set({ loopOn: !session.loopOn }, 'Loop')}
        >
          <Repeat size={14} aria-hidden="true" />
        </Button>
        <EditableText
          label="Loop from bar"
          text={bar(session.loopStartBeat)}
          width={30}
          onTyped={(text) => take(text, (loopStartBeat) => ({ loopStartBeat, loopEndBeat: session.loopEndBeat }))}
        />
        to
        <EditableText
          label="Loop to bar"
          text={bar(session.loopEndBeat)}
          width={30}
          onTyped={(text) => take(text, (loopEndBeat) => ({ loopStartBeat: session.loopStartBeat, loopEndBeat }))}
        />
      </span>
    </span>
  );
}
