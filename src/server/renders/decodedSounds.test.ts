import { writeWav } from '@/core/formats/wav';
import { DecodedSounds } from './decodedSounds';

const FRAMES = 1000;
/** A mono file of a constant. */
const file = (id: string, level = 0.5) => ({
  id,
  name: `${id}.wav`,
  bytes: writeWav({ sampleRateHz: 48000, channels: [new Float32Array(FRAMES).fill(level)] }, '32f'),
});

describe('decoded sounds', () => {
  it('are decoded once for each rate, and are what the file holds', async () => {
    const sounds = new DecodedSounds();
    const first = await sounds.of(file('a'), 48000);
    expect(first.left[500]).toBe(0.5);
    expect((await sounds.of({ ...file('a'), bytes: new Uint8Array() }, 48000)).left).toBe(first.left);
    expect((await sounds.of(file('a'), 96000)).left.length).toBe(2 * FRAMES);
  });

  it('leave when there are too many, those first that were not used for longest', async () => {
    const sounds = new DecodedSounds(2 * 4 * FRAMES);
    const first = await sounds.of(file('a'), 48000);
    const second = await sounds.of(file('b'), 48000);
    expect((await sounds.of(file('a'), 48000)).left).toBe(first.left);
    await sounds.of(file('c'), 48000);
    expect((await sounds.of(file('a'), 48000)).left).toBe(first.left);
    expect((await sounds.of(file('b'), 48000)).left).not.toBe(second.left);
  });

  it('that are larger than the room for all are still decoded', async () => {
    const sounds = new DecodedSounds(10);
    expect((await sounds.of(file('a'), 48000)).left[0]).toBe(0.5);
    expect((await sounds.of(file('b', 0.25), 48000)).left[0]).toBe(0.25);
  });
});
