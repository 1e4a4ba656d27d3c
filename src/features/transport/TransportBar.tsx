'use client';

import { useRef, useState } from 'react';
import { Ear, Play, Repeat, SkipBack, Square } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { LISTENING_PLACES } from '@/core/listening/catalogue';
import { KinetikonError } from '@/core/errors';
import { METER } from '@/core/protocol/meters';
import { MAIN_ID } from '@/core/session/records/strips';
import { beatsPerBar } from '@/core/session/records/queries';
import { MODES, TEMPO, TONICS, type SessionRecord } from '@/core/session/records/session';
import { useStudio, useStudioState } from '../session/StudioContext';
import { useCount } from '../ui/useCount';
import { useFrame } from '../ui/useFrame';
import { meterPosition } from '../ui/levels';
import { formatPosition } from '../ui/music';
import { EditableText } from '../ui/EditableText';

const HOLD_MS = 1500;
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

/** Play, position, tempo, metre, key, loop and the main meter. */
export function TransportBar() {
  const studio = useStudio();
  const session = useStudioState(({ document }) => document.session);
  const [playing, setPlaying] = useState(false);
  const position = useRef<HTMLSpanElement>(null);

  useFrame(() => {
    if (studio.engine.playing !== playing) setPlaying(studio.engine.playing);
    const now = formatPosition(studio.transport.heardBeat, studio.state.document.session);
    if (position.current) position.current.textContent = `${now.bar}.${now.beat}.${String(now.part).padStart(2, '0')}`;
  });

  return (
    <footer className="listening" aria-label="Listening">
      <Button
        variant="icon"
        aria-label="To the start"
        title="To the start: Home"
        onClick={() => studio.transport.seekBeat(0)}
      >
        <SkipBack size={18} aria-hidden="true" />
      </Button>
      <Button
        bsPrefix="play"
        aria-label={playing ? 'Stop' : 'Play'}
        title={`${playing ? 'Stop' : 'Play'}: Space`}
        onClick={() => studio.transport.toggle()}
      >
        {playing ? <Square size={16} fill="currentColor" aria-hidden="true" /> : <Play size={18} aria-hidden="true" />}
      </Button>
      <span
        className="position"
        ref={position}
        title="Bar, beat, hundredths of the beat"
        role="timer"
        aria-label="Position"
      >
        1.1.00
      </span>
      <Tempo tempo={session.tempoBpm} />
      <MetreAndKey session={session} />
      <Loop session={session} />
      <HearSwitches session={session} />
      <WriteSwitches />
      <ListeningChoice />
      <MainMeter />
      <EngineLoad playing={playing} />
    </footer>
  );
}

/** Changes the session as one step. */
function useSessionChange() {
  const studio = useStudio();
  return (values: Partial<SessionRecord>, label: string) =>
    studio.editor.perform({ type: 'session.set', values }, label);
}

function MetreAndKey({ session }: { readonly session: SessionRecord }) {
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

/** What of the session is heard: returns alone, or no effects. */
function HearSwitches({ session }: { readonly session: SessionRecord }) {
  const set = useSessionChange();
  return (
    <div className="field">
      <span>hear</span>
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
          aria-label="All effects off"
          title={
            session.effectsOff ? 'All effects are bypassed: press to hear them' : 'Bypass all effects of the session'
          }
          onClick={() => set({ effectsOff: !session.effectsOff }, session.effectsOff ? 'Effects on' : 'Effects off')}
        >
          effects off
        </Button>
      </span>
    </div>
  );
}

/** Writing of automation while the session plays. */
function WriteSwitches() {
  const studio = useStudio();
  const { armed, punch } = useStudioState(({ armed, punch }) => ({ armed, punch }));
  return (
    <div className="field">
      <span>write</span>
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
          lanes
        </Button>
        <Button
          variant="icon"
          aria-pressed={punch}
          aria-label="Write within the loop only"
          title="Write only between the ends of the loop"
          onClick={() => studio.set({ punch: !punch })}
        >
          in loop
        </Button>
      </span>
    </div>
  );
}

/** Load of the engine, or what keeps it from playing all. */
function EngineLoad({ playing }: { readonly playing: boolean }) {
  const studio = useStudio();
  const { missing, engineState } = useStudioState(({ missingSounds, engineState }) => ({
    missing: missingSounds,
    engineState,
  }));
  const [dropOuts, clearDropOuts] = useCount(() => studio.engine.dropOuts);
  const load = useRef<HTMLSpanElement>(null);
  useFrame(() => {
    if (load.current) load.current.textContent = `${Math.round(studio.engine.meters[METER.load]! * 100)} %`;
  });
  return (
    <span className="field" title="Part of one core that the engine takes">
      <span>engine</span>
      <b>
        {missing.length > 0 ? (
          <span className="missing" title={`Not there yet: ${missing.join(', ')}. The rest plays.`}>
            {missing.length === 1 ? `without ${missing[0]}` : `without ${missing.length} sounds`}
          </span>
        ) : engineState === 'lost' ? (
          'lost'
        ) : engineState === 'waiting' && playing ? (
          'held back'
        ) : (
          <span ref={load}>0 %</span>
        )}
      </b>
      {dropOuts > 0 && (
        <Button
          variant="plain"
          className="drop-outs"
          title="The sound broke off because the engine came too late: press to clear"
          onClick={clearDropOuts}
        >
          {dropOuts === 1 ? '1 drop-out' : `${dropOuts} drop-outs`}
        </Button>
      )}
    </span>
  );
}

/** The listening place; other than plain it says that bounces leave it out. */
function ListeningChoice() {
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

function Tempo({ tempo }: { tempo: number }) {
  const studio = useStudio();
  const taps = useRef<number[]>([]);
  const set = (tempoBpm: number) => studio.editor.perform({ type: 'session.set', values: { tempoBpm } }, 'Tempo');
  const tap = () => {
    const now = performance.now();
    const last = taps.current.at(-1);
    taps.current = last !== undefined && now - last < TAP_RESET_MS ? [...taps.current, now].slice(-8) : [now];
    if (taps.current.length < 3) return;
    const mean = (now - taps.current[0]!) / (taps.current.length - 1);
    set(Math.max(TEMPO.min, Math.min(TEMPO.max, Math.round(600000 / mean) / 10)));
  };
  return (
    <span className="field">
      <span>tempo</span>
      <span className="field-pair">
        <EditableText
          label="Tempo in beats a minute"
          text={String(tempo)}
          width={44}
          onTyped={(text) => set(Number(text.replace(',', '.')))}
        />
        <Button variant="plain" title="Tap three times or more in tempo" onClick={tap}>
          tap
        </Button>
      </span>
    </span>
  );
}

function Loop({ session }: { session: SessionRecord }) {
  const studio = useStudio();
  const perBar = beatsPerBar(session);
  const set = (values: Partial<SessionRecord>) => studio.editor.perform({ type: 'session.set', values }, 'Loop');
  const bar = (beat: number) => String(Number((beat / perBar + 1).toFixed(2)));
  /** Takes a bar up where it leaves the loop a start before its end, and says so where it does not. */
  const take = (text: string, loopOf: (beat: number) => Pick<SessionRecord, 'loopStartBeat' | 'loopEndBeat'>) => {
    const beat = (Number(text.replace(',', '.')) - 1) * perBar;
    const loop = loopOf(beat);
    if (beat >= 0 && loop.loopEndBeat > loop.loopStartBeat) {
      if (set(loop)) studio.messages.settled('loop');
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
          onClick={() => set({ loopOn: !session.loopOn })}
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

/** The guard of the output: on unless somebody has switched it off in this browser. */
function GuardSwitch() {
  const studio = useStudio();
  const on = useStudioState(({ guarded }) => guarded);
  return (
    <Button
      variant="plain"
      className="guard-switch"
      aria-pressed={on}
      title={
        on
          ? 'What passes +6 dBFS is stopped within 20 ms: press to switch the guard off'
          : 'The guard of the output is off: press to switch it on'
      }
      onClick={() => studio.monitor.setGuard(!on)}
    >
      {on ? 'guarded' : 'not guarded'}
    </Button>
  );
}

/** Says that the guard has stopped the sound; one press resumes. */
function GuardNotice() {
  const studio = useStudio();
  const [tripped, setTripped] = useState(false);
  useFrame(() => {
    if (studio.engine.guardTripped !== tripped) setTripped(studio.engine.guardTripped);
  });
  if (!tripped) return null;
  return (
    <div className="guard-notice" role="alert">
      <span>Stopped: the sound ran above +6 dBFS.</span>
      <Button variant="solid" onClick={() => studio.engine.resume()}>
        Hear it again
      </Button>
    </div>
  );
}

function MainMeter() {
  const studio = useStudio();
  const bars = useRef<HTMLDivElement>(null);
  const [over, clear] = useCount(() => studio.engine.overs(MAIN_ID));
  const figure = useRef<HTMLSpanElement>(null);
  const hold = useRef<[{ gain: number; at: number }, { gain: number; at: number }]>([
    { gain: 0, at: 0 },
    { gain: 0, at: 0 },
  ]);

  useFrame(() => {
    const root = bars.current;
    if (!root) return;
    const level = studio.engine.level(MAIN_ID);
    const now = performance.now();
    [level.left, level.right].forEach((gain, side) => {
      const held = hold.current[side as 0 | 1];
      if (gain >= held.gain || now - held.at > HOLD_MS) hold.current[side as 0 | 1] = { gain, at: now };
      const channel = root.children[side] as HTMLElement;
      (channel.children[0] as HTMLElement).style.transform = `scaleX(${meterPosition(gain).toFixed(4)})`;
      (channel.children[1] as HTMLElement).style.left =
        `${(meterPosition(hold.current[side as 0 | 1].gain) * 100).toFixed(2)}%`;
    });
    const loudest = Math.max(hold.current[0].gain, hold.current[1].gain);
    if (figure.current)
      figure.current.textContent = loudest > 0.001 ? `${(20 * Math.log10(loudest)).toFixed(1)} dB` : '-inf dB';
  });

  return (
    <div className="main-meter">
      <div className="main-meter-top">
        <span>main</span>
        <span ref={figure}>-inf dB</span>
        <GuardSwitch />
        <Button
          bsPrefix="bare"
          className={`overs ${over > 0 ? 'overs-on' : ''}`}
          aria-label={`${over} samples over full scale. Clear`}
          title="Samples over full scale: press to clear"
          onClick={clear}
        >
          {over > 0 ? `over ${over}` : 'no overs'}
        </Button>
      </div>
      <GuardNotice />
      <div className="main-meter-bars" ref={bars} aria-hidden="true">
        {[0, 1].map((side) => (
          <div key={side}>
            <span className="level" />
            <span className="held" />
            <span className="full-scale" style={{ left: `${meterPosition(1) * 100}%` }} />
          </div>
        ))}
      </div>
    </div>
  );
}
