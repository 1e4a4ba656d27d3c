import { over, times, type Complex } from '../../math/complex';
import { cos, dbToGain, exp, log, sin, tan } from '../../math/elementary';
import { HIGH_CUT_OFF, LOW_CUT_OFF, PATHS, type PathId } from './spec';

/** A value of a parameter in its own unit: a choice by its place, a switch as 0 or 1. */
export type Figure = (id: string) => number;

/** Hz at least and at most that a filter can be set to at a rate. */
const within = (hz: number, sampleRateHz: number) => Math.min(Math.max(hz, 1), 0.49 * sampleRateHz);

/** A cutoff between one that is off and one that is set, by octaves. */
export function cutAt(off: number, set: number, amount: number): number {
  if (amount === 0 || set === off) return off;
  return amount === 1 ? set : exp(log(off) + amount * (log(set) - log(off)));
}

/**
 * Response of a path, from the prototypes of its filters, whose frequencies the bilinear transform bends
 * (Oppenheim and Schafer, "Discrete-Time Signal Processing", 7.1): its gain with its sign, its delay in whole frames, and
 * its cuts. Without what goes round.
 */
export function pathTransfer(path: PathId, figure: Figure, sampleRateHz: number): (hz: number) => Complex {
  const of = (key: string) => figure(`${path}.${key}`);
  const plain = PATHS.findIndex(({ id }) => id === path) < 2 ? 1 : 0;
  const soloed = PATHS.some(({ id }) => figure(`${id}.solo`) !== 0);
  if (of('mute') !== 0 || (soloed && of('solo') === 0)) return () => ({ re: 0, im: 0 });
  const amount = figure('amount') / 100;
  const set = (of('polarity') !== 0 ? -1 : 1) * (of('gain') <= -100 ? 0 : dbToGain(of('gain')));
  const gain = plain + amount * (set - plain);
  const delay = Math.round((amount * of('delay') * sampleRateHz) / 1000);
  const lowCut = cutAt(LOW_CUT_OFF, of('lowCut'), amount);
  const highCut = cutAt(HIGH_CUT_OFF, of('highCut'), amount);
  /** A cutoff as the filter sees it. */
  const bent = (hz: number) => tan((Math.PI * within(hz, sampleRateHz)) / sampleRateHz);
  const [low, high] = [bent(lowCut), bent(highCut)];
  const gentle = of('slope') === 0;
  const q = of('resonance');
  return (hz) => {
    const w = (2 * Math.PI * hz) / sampleRateHz;
    let h: Complex = { re: gain * cos(w * delay), im: -gain * sin(w * delay) };
    if (lowCut > LOW_CUT_OFF) {
      const x = tan(w / 2) / low;
      h = times(h, gentle ? over({ re: 0, im: x }, { re: 1, im: x }) : over({ re: -x * x, im: 0 }, second(x, q)));
    }
    if (highCut < HIGH_CUT_OFF) {
      const x = tan(w / 2) / high;
      h = times(h, over({ re: 1, im: 0 }, gentle ? { re: 1, im: x } : second(x, q)));
    }
    return h;
  };
}

const second = (x: number, q: number): Complex => ({ re: 1 - x * x, im: x / q });
