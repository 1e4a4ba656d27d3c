'use client';

import { useEffect, useRef, useState, type PointerEvent } from 'react';
import { Circle } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { keyName } from '@/core/effects/pitchNames';
import { degreeOf } from '@/core/effects/scaleKeys';
import { scaleOf } from '@/core/session/scales';
import { openNotes, playersOf } from '../session/keyPlayer';
import { MidiInput } from '../session/midiInput';
import { useStudio, useStudioState } from '../session/StudioContext';
import { useFrame } from '../ui/useFrame';
import { COMPUTER_KEYS, RAISED } from './computerKeys';

const OCTAVES = 3;
const LOWEST = 1;
const HIGHEST = 7;
const SOFT = 40;
const HARD = 127;

/** Played by hand: keys on the screen, computer keys, MIDI. */
export function Keyboard() {
  const studio = useStudio();
  const { session, players, armed } = useStudioState((state) => ({
    session: state.document.session,
    players: playersOf(state.document, openNotes(state)).length,
    armed: state.armed,
  }));
  const [octave, setOctave] = useState(3);
  const [down, setDown] = useState<readonly number[]>([]);
  const [velocity, setVelocity] = useState(96);
  const scale = scaleOf(session);
  const first = 12 * (octave + 1);

  useEffect(() => studio.keys.onChange(() => setDown(studio.keys.down)), [studio]);
  useComputerKeys(first, velocity, (by) =>
    setOctave((now) => Math.min(HIGHEST - OCTAVES + 1, Math.max(LOWEST, now + by))),
  );
  const press = (event: PointerEvent<HTMLElement>, key: number) => {
    const box = event.currentTarget.getBoundingClientRect();
    event.currentTarget.releasePointerCapture(event.pointerId);
    // Low on a key is hard.
    const part = (event.clientY - box.top) / box.height;
    studio.keys.press(key, Math.round(SOFT + (HARD - SOFT) * Math.min(1, Math.max(0, part))));
  };
  const keys = Array.from({ length: 12 * OCTAVES + 1 }, (_, n) => first + n);
  const flat = keys.filter((key) => !RAISED.includes(key % 12));
  const keyButton = (key: number, raised: boolean) => {
    const degree = degreeOf(key, scale);
    return (
      <Button
        bsPrefix={raised ? 'raised-key' : 'flat-key'}
        key={key}
        aria-label={`${keyName(key)}${degree < 0 ? ', beside the key' : `, degree ${degree + 1}`}`}
        aria-pressed={down.includes(key)}
        className={degree === 0 ? 'key-tonic' : degree < 0 ? 'key-beside' : undefined}
        onPointerDown={(event) => press(event, key)}
        onPointerUp={() => studio.keys.release(key)}
        onPointerLeave={() => studio.keys.release(key)}
        onPointerEnter={(event) => event.buttons === 1 && press(event, key)}
        onKeyDown={(event) => event.key === 'Enter' && !event.repeat && studio.keys.press(key, velocity)}
        onKeyUp={(event) => event.key === 'Enter' && studio.keys.release(key)}
        onBlur={() => studio.keys.release(key)}
      >
        {!raised && key % 12 === 0 && <small>{keyName(key)}</small>}
      </Button>
    );
  };
  return (
    <section className="keyboard" aria-label="Keyboard">
      <div className="keyboard-side">
        <span className="keyboard-octaves">
          <Button
            variant="plain"
            disabled={octave <= LOWEST}
            aria-label="An octave lower"
            title="An octave lower: comma"
            onClick={() => setOctave(octave - 1)}
          >
            ‹ lower
          </Button>
          <Button
            variant="plain"
            disabled={octave >= HIGHEST - OCTAVES + 1}
            aria-label="An octave higher"
            title="An octave higher: full stop"
            onClick={() => setOctave(octave + 1)}
          >
            higher ›
          </Button>
        </span>
        <label className="tool-choice">
          velocity
          <Form.Control
            type="number"
            min={1}
            max={127}
            aria-label="Velocity of computer keys"
            value={velocity}
            onChange={(event) => setVelocity(Math.min(127, Math.max(1, Math.round(Number(event.target.value)) || 1)))}
          />
        </label>
        <Button
          variant="line"
          aria-pressed={armed}
          title="While this is on and the session plays, what is played is written"
          onClick={() => studio.set({ armed: !armed })}
        >
          <Circle size={10} fill={armed ? 'currentColor' : 'none'} aria-hidden="true" /> write
        </Button>
      </div>
      <div className="keyboard-keys">
        {flat.map((key) => (
          <span key={key} className="key-place">
            {keyButton(key, false)}
            {keys.includes(key + 1) && RAISED.includes((key + 1) % 12) && keyButton(key + 1, true)}
          </span>
        ))}
      </div>
      <div className="keyboard-side">
        <MidiStatus />
        <small>
          {players === 0 ? (
            <b className="keyboard-mute">Nothing here plays notes: add a Synth, Vocoder or Harmonies.</b>
          ) : (
            'computer keys a to p, comma and full stop for octaves'
          )}
        </small>
        <Latency />
      </div>
    </section>
  );
}

/** Plays the computer's keys as notes; comma and full stop change the octave. */
function useComputerKeys(first: number, velocity: number, onOctave: (by: 1 | -1) => void): void {
  const studio = useStudio();
  const latest = useRef(onOctave);
  useEffect(() => {
    latest.current = onOctave;
  });
  useEffect(() => {
    const held = new Map<string, number>();
    const onDown = (event: KeyboardEvent) => {
      const target = event.target instanceof Element ? event.target : null;
      if (event.repeat || event.ctrlKey || event.metaKey || event.altKey) return;
      if (target?.matches('input:not([type=checkbox]), select, textarea, [contenteditable]')) return;
      if (event.code === 'Comma' || event.code === 'Period') {
        latest.current(event.code === 'Period' ? 1 : -1);
        return;
      }
      const step = COMPUTER_KEYS[event.code];
      if (step === undefined) return;
      event.preventDefault();
      event.stopPropagation();
      held.set(event.code, first + step);
      studio.keys.press(first + step, velocity);
    };
    const onUp = (event: KeyboardEvent) => {
      const key = held.get(event.code);
      if (key === undefined) return;
      held.delete(event.code);
      studio.keys.release(key);
    };
    const onBlur = () => studio.keys.releaseAll();
    // Before shortcuts that are letters.
    window.addEventListener('keydown', onDown, true);
    window.addEventListener('keyup', onUp, true);
    window.addEventListener('blur', onBlur);
    return () => {
      window.removeEventListener('keydown', onDown, true);
      window.removeEventListener('keyup', onUp, true);
      window.removeEventListener('blur', onBlur);
      onBlur();
    };
  }, [studio, first, velocity]);
}

/** Listens to MIDI once asked to, and names its devices. */
function MidiStatus() {
  const studio = useStudio();
  const [midi, setMidi] = useState<{ devices: readonly string[]; why: string | null } | null>(null);
  const [input] = useState(() => new MidiInput(studio));
  useEffect(() => () => input.close(), [input]);
  return midi === null ? (
    <Button
      variant="line"
      onClick={() => {
        const tell = () => setMidi({ devices: input.devices, why: null });
        void input.open(tell).then((why) => why !== null && setMidi({ devices: [], why }));
      }}
    >
      Listen to MIDI
    </Button>
  ) : (
    <small role="status">{midi.why ?? (midi.devices.join(', ') || 'MIDI: no device is there yet')}</small>
  );
}

/** Time from a key to its sound that the device takes. */
function Latency() {
  const studio = useStudio();
  const [latency, setLatency] = useState('');
  useFrame(() => {
    const seconds = studio.engine.outputSeconds;
    const now = seconds > 0 ? `${Math.round(1000 * seconds)} ms` : 'not known yet';
    if (now !== latency) setLatency(now);
  });
  return <small>to the ear: {latency}</small>;
}
