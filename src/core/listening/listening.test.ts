import { drawn } from '../../../test/support/sweep';
import { amplitudeAt, db, largest, largestBend, RATES, sine } from '../../../test/support/render';
import { integratedLoudness } from '../analysis/loudness';
import { Noise } from '../dsp/noise';
import { LISTENING_PLACES, listeningPlace } from './catalogue';
import { listeningImpulse, workOutListening } from './responses';
import { leadFrames, LONGEST_SECONDS, Monitor } from './monitor';

const RATE = 48000;
const LEAD = leadFrames(RATE);
const BUILT = LISTENING_PLACES.filter(({ id }) => id !== 'plain');

function heard(monitor: Monitor, left: Float32Array, right = left.slice()) {
  const out = { left: left.slice(), right: right.slice() };
  for (let at = 0; at < left.length; at += 128) {
    const frames = Math.min(128, left.length - at);
    monitor.process(out.left.subarray(at, at + frames), out.right.subarray(at, at + frames), frames);
  }
  return out;
}

/** Something like music: a beat of pink noise over a low tone, with sides of its own that lean to the left. */
function music(seconds: number) {
  const [one, two] = [new Noise(4), new Noise(9)];
  const left = new Float32Array(seconds * RATE);
  const right = new Float32Array(left.length);
  for (let n = 0; n < left.length; n++) {
    const beat = 0.3 + 0.7 * Math.exp((-(n % 12000) / RATE) * 12);
    const low = 0.05 * Math.sin((2 * Math.PI * 110 * n) / RATE);
    const [m, s] = [0.15 * beat * one.pink(), 0.12 * two.pink()];
    left[n] = low + m + s;
    right[n] = low + m - 0.5 * s;
  }
  return { left, right };
}

const listenAt = (id: string) => {
  const monitor = new Monitor(RATE);
  monitor.listen(workOutListening(id, RATE).prepared);
  return monitor;
};

describe('listening places', () => {
  it.each(BUILT.map(({ id }) => [id] as const))('%s is as loud as the plain sound, within 0.5 LU', (id) => {
    const { left, right } = music(8);
    const out = heard(listenAt(id), left, right);
    const loudness = (l: Float32Array, r: Float32Array) =>
      integratedLoudness([l.subarray(2 * RATE), r.subarray(2 * RATE)], RATE);
    expect(Math.abs(loudness(out.left, out.right) - loudness(left, right))).toBeLessThan(0.5);
  });

  it.each(BUILT.filter(({ belowHz, aboveHz }) => belowHz + aboveHz > 0).map((place) => [place.id, place] as const))(
    '%s takes away what it says',
    (_, place) => {
      const [ll, lr] = listeningImpulse(place, RATE) as [Float32Array, Float32Array];
      const power = (low: number, high: number) => {
        let sum = 0;
        let count = 0;
        for (let hz = low; hz <= high; hz *= 1.03) {
          for (const path of [ll, lr]) {
            let re = 0;
            let im = 0;
            path.forEach((x, n) => {
              re += x * Math.cos((2 * Math.PI * hz * n) / RATE);
              im += x * Math.sin((2 * Math.PI * hz * n) / RATE);
            });
            sum += re * re + im * im;
          }
          count++;
        }
        return 10 * Math.log10(sum / count);
      };
      const middle = power(700, 2500);
      if (place.belowHz > 0) expect(power(place.belowHz / 2, place.belowHz / 1.4) - middle).toBeLessThan(-10);
      if (place.aboveHz > 0) expect(power(place.aboveHz * 1.3, place.aboveHz * 2) - middle).toBeLessThan(-10);
    },
  );

  it('in mono both sides are the same, and what differs between them is gone', () => {
    const tone = sine(500, RATE, RATE, 0.3);
    const against = tone.map((x) => -x);
    const out = heard(listenAt('mono'), tone, against);
    expect(largest(out.left.subarray(4800))).toBeLessThan(1e-6);
    const { left, right } = music(1);
    const mono = heard(listenAt('mono'), left, right);
    expect(mono.left.subarray(4800)).toEqual(mono.right.subarray(4800));
  });

  it('brings speakers to headphones: either ear hears both, the far one later and duller', () => {
    const [ll, lr, rl, rr] = listeningImpulse(listeningPlace('headphones'), RATE) as Float32Array[];
    const peakOf = (path: Float32Array) =>
      path.reduce((best, x, n) => (Math.abs(x) > Math.abs(path[best]!) ? n : best), 0);
    expect(peakOf(lr!) - peakOf(ll!)).toBeGreaterThan(8);
    expect(peakOf(lr!) - peakOf(ll!)).toBeLessThan(16);
    const level = (path: Float32Array, hz: number) => db(amplitudeAt(path, hz, RATE));
    expect(level(ll!, 6000) - level(lr!, 6000)).toBeGreaterThan(level(ll!, 200) - level(lr!, 200) + 5);
    expect(rr).toEqual(ll);
    expect(rl).toEqual(lr);
  });

  it('leaves the plain sound bit for bit, and goes from place to place without a click', () => {
    const { left, right } = music(1);
    expect(heard(new Monitor(RATE), left, right)).toEqual({ left, right });
    const monitor = new Monitor(RATE);
    const tone = sine(200, RATE, 9600, 0.4);
    // Beside how loud it is: a place may take this tone and leave another.
    const bend = (sound: Float32Array) => largestBend(sound) / largest(sound);
    const steady = bend(heard(monitor, tone).left);
    for (const id of ['phone', 'hall', 'mono', 'plain', 'car', 'plain']) {
      monitor.listen(workOutListening(id, RATE).prepared);
      expect([id, bend(heard(monitor, tone).left) < 2 * steady]).toEqual([id, true]);
      heard(monitor, tone);
    }
    const out = heard(monitor, left, right);
    expect(out.left.subarray(LEAD)).toEqual(left.subarray(0, -LEAD));
    expect(out.right.subarray(LEAD)).toEqual(right.subarray(0, -LEAD));
  });

  it.each(drawn('latency of listening places', RATES))('is as late as the plain sound, at %d Hz', (rate) => {
    for (const place of BUILT) {
      const paths = listeningImpulse(place, rate);
      const loudest = Math.max(...paths.map((path) => largest(path)));
      const first = Math.min(
        ...paths.map((path) => path.findIndex((x) => Math.abs(x) > 0.2 * loudest)).filter((n) => n >= 0),
      );
      // An ear that is nearer than the middle of the head hears it sooner, by up to half of the time for its radius.
      expect([place.id, Math.abs(first / rate - leadFrames(rate) / rate) < 0.00016]).toEqual([place.id, true]);
    }
  });

  it('draws what it does to the middle and to the sides', () => {
    for (const { id, seconds } of LISTENING_PLACES) {
      const { hz, middle, sides } = workOutListening(id, RATE).response;
      expect([id, seconds < LONGEST_SECONDS, hz.length, middle.every(Number.isFinite)]).toEqual([id, true, 120, true]);
      const at = hz.findIndex((one) => one >= 1000);
      if (id === 'plain') expect([middle[at], sides[at]]).toEqual([0, 0]);
      if (id === 'mono') expect(sides[at]! < -100).toBe(true);
      if (id === 'laptop') expect(middle[at]! - sides[at]!).toBeCloseTo(6, 1);
    }
    const { hz, middle } = workOutListening('radio', RATE).response;
    expect(middle[hz.findIndex((one) => one >= 60)]!).toBeLessThan(-20);
  });
});
