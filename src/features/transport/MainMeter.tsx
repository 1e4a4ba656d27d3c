import { useRef, useState } from 'react';
import { Shield, ShieldOff } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import { MAIN_ID } from '@/core/session/records/strips';
import { useStudio, useStudioState } from '../session/StudioContext';
import { writeStyle, writeText } from '../ui/drawn';
import { meterPosition } from '../ui/levels';
import { useCount } from '../ui/useCount';
import { useFrame } from '../ui/useFrame';

const HOLD_MS = 1500;

export function MainMeter() {
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
      writeStyle(channel.children[0] as HTMLElement, 'transform', `scaleX(${meterPosition(gain).toFixed(4)})`);
      const at = meterPosition(hold.current[side as 0 | 1].gain);
      writeStyle(channel.children[1] as HTMLElement, 'left', `${(at * 100).toFixed(2)}%`);
    });
    const loudest = Math.max(hold.current[0].gain, hold.current[1].gain);
    writeText(figure.current, loudest > 0.001 ? `${(20 * Math.log10(loudest)).toFixed(1)} dB` : '-inf dB');
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
          {over > 0 ? `clipped ${over}` : 'no clipping'}
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

/** The guard of the output: on unless somebody has switched it off in this browser. */
function GuardSwitch() {
  const studio = useStudio();
  const on = useStudioState(({ guarded }) => guarded);
  const words = on ? 'speaker guard on' : 'speaker guard off';
  return (
    <Button
      variant="plain"
      className="guard-switch"
      aria-label={words}
      aria-pressed={on}
      title={
        on
          ? 'What passes +6 dBFS is stopped within 20 ms: press to switch the guard off'
          : 'The guard of the output is off: press to switch it on'
      }
      onClick={() => studio.monitor.setGuard(!on)}
    >
      {on ? <Shield size={12} aria-hidden="true" /> : <ShieldOff size={12} aria-hidden="true" />}
      <span className="guard-words">{words}</span>
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
