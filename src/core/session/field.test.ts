import { madeFile } from '../../../test/support/madeFile';
import { thinned } from '../../../test/support/sweep';
import fc from 'fast-check';
import { encodeDirection, fieldChannels } from '../dsp/ambisonics';
import { Noise } from '../dsp/noise';
import { renderField } from '../engine/field';
import { renderPlan } from '../engine/render';
import { inOne } from '../formats/parts';
import { readWav } from '../formats/wav';
import { applyCommand, type Command } from './commands';
import { compileBounce, type Delivery } from './compile/bounce';
import { newClip, newDocument } from './records/factories';
import type { SessionDocument } from './records/document';

const SOUND = 'd'.repeat(64);
const RATE = 48000;
const FRAMES = 9600;
const RADIAN = Math.PI / 180;
const noise = new Noise(8);
const sound = Float32Array.from({ length: FRAMES }, () => 0.2 * noise.white());
const samples = new Map([[SOUND, { left: sound, right: sound }]]);
const range = { fromFrame: 0, toFrame: FRAMES, tailSeconds: 0 };

function session(...more: Command[]): SessionDocument {
  const commands: Command[] = [
    { type: 'asset.add', asset: { id: SOUND, name: 'hiss.wav', frames: FRAMES, sampleRateHz: RATE, channels: 1 } },
    { type: 'track.add', id: 'hiss', name: 'Hiss' },
    {
      type: 'clip.add',
      clip: newClip({
        ...{ id: 'clip', trackId: 'hiss', name: 'hiss', startBeat: 0, lengthSeconds: FRAMES / RATE },
        source: { kind: 'sound', assetId: SOUND },
      }),
    },
    ...more,
  ];
  return applyCommand(newDocument('Field'), { type: 'all', commands }, '').document;
}
const place = (values: object): Command => ({ type: 'place.add', stripId: 'hiss', id: 'place', values: { ...values } });

function fieldOf(document: SessionDocument, order: 1 | 3): Float32Array[] {
  const plan = compileBounce(document, order === 1 ? 'field1' : 'field3');
  return inOne(
    [...renderField(plan, { samples }, range, order)].flatMap(({ channels }) =>
      channels.length > 0 ? [channels] : [],
    ),
  );
}

/** The direction in which a decoder finds most: beams of the field's own order, searched ever closer. */
function loudest(field: readonly Float32Array[]): { azimuth: number; elevation: number } {
  const products = field.map((a) => field.map((b) => a.reduce((sum, x, n) => sum + x * b[n]!, 0)));
  const order = Math.round(Math.sqrt(field.length)) - 1;
  // SN3D has each order as a beam with equal weights when it is multiplied by its number of channels.
  const weights = field.map((_, n) => 2 * Math.floor(Math.sqrt(n)) + 1);
  expect(fieldChannels(order)).toBe(field.length);
  const beam = new Float64Array(field.length);
  const power = (azimuth: number, elevation: number) => {
    const [a, e] = [azimuth * RADIAN, elevation * RADIAN];
    encodeDirection(beam, Math.cos(a) * Math.cos(e), -Math.sin(a) * Math.cos(e), Math.sin(e));
    let sum = 0;
    for (let i = 0; i < beam.length; i++)
      for (let k = 0; k < beam.length; k++) sum += weights[i]! * weights[k]! * beam[i]! * beam[k]! * products[i]![k]!;
    return sum;
  };
  let best = { azimuth: 0, elevation: 0 };
  for (let span = 180, step = 10; step > 0.1; span = step * 1.5, step /= 5) {
    const { azimuth, elevation } = best;
    let most = -Infinity;
    for (let a = azimuth - span; a <= azimuth + span; a += step)
      for (let e = Math.max(-90, elevation - span); e <= Math.min(90, elevation + span); e += step) {
        const here = power(a, e);
        if (here > most) {
          most = here;
          best = { azimuth: a, elevation: e };
        }
      }
  }
  return best;
}

describe('a sound field', () => {
  it.each([1, 3] as const)('of order %d points to where a thing stands, within 1 degree', (order) => {
    fc.assert(
      fc.property(
        fc.double({ min: -180, max: 180, noNaN: true }),
        fc.double({ min: -2, max: 2, noNaN: true }),
        (azimuth, height) => {
          const found = loudest(fieldOf(session(place({ azimuth, height, distance: 2 })), order));
          const off = found.azimuth - azimuth;
          const elevation = Math.atan2(height, 2) / RADIAN;
          const across = (off - 360 * Math.round(off / 360)) * Math.cos(elevation * RADIAN);
          expect(Math.hypot(across, found.elevation - elevation)).toBeLessThan(1);
        },
      ),
      { numRuns: thinned(8) },
    );
  });

  it('has what stands nowhere from two speakers ahead, at the level it has in stereo, without the effects of the output', () => {
    const document = session(
      { type: 'strip.set', id: 'main', values: { gainDb: -6.0206 } },
      { type: 'insert.add', stripId: 'main', id: 'soft', effect: 'utility', index: 0, values: { gain: -20 } },
    );
    const [w, y] = fieldOf(document, 1) as [Float32Array, Float32Array];
    const late = w.findIndex((x) => x !== 0);
    expect(late).toBeLessThan(2);
    for (let n = 200; n < FRAMES; n += 97) expect(Math.abs(w[n]! - 0.5 * sound[n]!)).toBeLessThan(2e-4);
    expect(Math.max(...y.map(Math.abs))).toBeLessThan(1e-6);
    const right = session({ type: 'strip.set', id: 'hiss', values: { pan: 100 } });
    expect(loudest(fieldOf(right, 3)).azimuth).toBeCloseTo(30, 0);
  });

  it('is bounced as a file of 4 or 16 channels, and headphones as two that differ from speakers', async () => {
    const document = session(place({ azimuth: 50 }));
    const shared = [{ assetId: SOUND, left: sound, right: sound }];
    const bounce = (delivery: Delivery, field?: 1 | 3) =>
      madeFile({
        ...{ kind: 'bounce', plan: compileBounce(document, delivery), samples: shared, range, format: '24', gainDb: 0 },
        ...(field ? { field } : {}),
      });
    const { bytes, levels } = await bounce('field3', 3);
    const file = readWav(bytes, 'field.wav');
    expect([file.channels.length, file.sampleRateHz, new DataView(bytes.buffer).getUint16(20, true)]).toEqual([
      16,
      RATE,
      0xfffe,
    ]);
    expect(levels.peakDb).toBeLessThan(0);
    expect(loudest(file.channels).azimuth).toBeCloseTo(50, 0);
    expect(readWav((await bounce('field1', 1)).bytes, 'field.wav').channels).toHaveLength(4);
    const heard = (delivery: Delivery) => renderPlan(compileBounce(document, delivery), samples, range)!;
    const [speakers, headphones] = [heard('speakers'), heard('headphones')];
    expect(headphones.left).not.toEqual(speakers.left);
    expect(compileBounce(document).strips).toEqual(compileBounce(document, 'speakers').strips);
  });
});
