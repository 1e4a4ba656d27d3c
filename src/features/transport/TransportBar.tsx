'use client';

import { useRef, useState } from 'react';
import { Play, SkipBack, Square } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import { METER } from '@/core/protocol/meters';
import { useStudio, useStudioState } from '../session/StudioContext';
import { formatPosition } from '../ui/music';
import { useCount } from '../ui/useCount';
import { writeText } from '../ui/drawn';
import { useFrame } from '../ui/useFrame';
import { MainMeter } from './MainMeter';
import { Loop, MetreAndKey, Tempo } from './SessionFields';
import { HearSwitches, ListeningChoice, WriteSwitches } from './TransportSwitches';

/** Play, position, tempo, metre, key, loop and the main meter. */
export function TransportBar() {
  const studio = useStudio();
  const session = useStudioState(({ document }) => document.session);
  const [playing, setPlaying] = useState(false);
  const position = useRef<HTMLSpanElement>(null);

  useFrame(() => {
    if (studio.engine.playing !== playing) setPlaying(studio.engine.playing);
    const now = formatPosition(studio.transport.heardBeat, studio.state.document.session);
    writeText(position.current, `${now.bar}.${now.beat}.${String(now.part).padStart(2, '0')}`);
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

/** Between two readings of the load, which could not be read faster. */
const LOAD_MS = 400;

/** Load of the engine, or what keeps it from playing all. */
function EngineLoad({ playing }: { readonly playing: boolean }) {
  const studio = useStudio();
  const engineState = useStudioState(({ engineState }) => engineState);
  const [dropOuts, clearDropOuts] = useCount(() => studio.engine.dropOuts);
  const load = useRef<HTMLSpanElement>(null);
  const due = useRef(0);
  useFrame(() => {
    const now = performance.now();
    if (now < due.current) return;
    due.current = now + LOAD_MS;
    writeText(load.current, `${Math.round(studio.engine.meters[METER.load]! * 100)} %`);
  });
  return (
    <span className="field" title="Part of one core that the engine takes">
      <span>engine</span>
      <b>
        {engineState === 'lost' ? (
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
          title="Drop-out: the engine could not keep up. Press to clear"
          onClick={clearDropOuts}
        >
          {dropOuts === 1 ? '1 drop-out' : `${dropOuts} drop-outs`}
        </Button>
      )}
    </span>
  );
}
