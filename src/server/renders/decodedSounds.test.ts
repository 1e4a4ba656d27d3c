import { bytesOf } from '@/core/formats/fileBytes';
import { writeWav } from '@/core/formats/wav';
import { DecodedSounds } from './decodedSounds';

const FRAMES = 1000;
/** Mono files of a constant. */
const file = async (id: string, level = 0.5) => ({
  name: `${id}.wav`,
  ...bytesOf(writeWav({ sampleRateHz: 48000, channels: [new Float32Array(FRAMES).fill(level)] }, '32f')),
});

describe('decoded sounds', () => {
  it('are decoded once for each rate, and are what the file holds', async () => {
    const sounds = new DecodedSounds();
    const first = await sounds.of('a', 48000, file);
    expect(first.left[500]).toBe(0.5);
    expect((await sounds.of('a', 48000, () => Promise.reject(new Error('asked again')))).left).toBe(first.left);
    expect((await sounds.of('a', 96000, file)).left.length).toBe(2 * FRAMES);
  });

  it('leave when there are too many, those first that were not used for longest', async () => {
    const sounds = new DecodedSounds(2 * 4 * FRAMES);
    const first = await sounds.of('a', 48000, file);
    const second = await sounds.of('b', 48000, file);
    expect((await sounds.of('a', 48000, file)).left).toBe(first.left);
    await sounds.of('c', 48000, file);
    expect((await sounds.of('a', 48000, file)).left).toBe(first.left);
    expect((await sounds.of('b', 48000, file)).left).not.toBe(second.left);
  });

  it('that are larger than the room for all are still decoded', async () => {
    const sounds = new DecodedSounds(10);
    expect((await sounds.of('a', 48000, file)).left[0]).toBe(0.5);
    expect((await sounds.of('b', 48000, (id) => file(id, 0.25))).left[0]).toBe(0.25);
  });
});
