import { readFileSync } from 'node:fs';
import { bytesOf } from '../fileBytes';
import { BytesSink } from '../fileSink';
import { readSound } from '../readSound';
import { openSeekable } from './seekable';
import { unroll } from './unroll';

const fileOf = (name: string) => new Uint8Array(readFileSync(`test/fixtures/sounds/${name}`));

async function unrolled(bytes: Uint8Array, name: string) {
  const sink = new BytesSink();
  const told: number[] = [];
  for await (const done of unroll(bytesOf(bytes), name, sink)) told.push(done);
  return { bytes: sink.bytes, told };
}

describe('an unrolled sound', () => {
  it.each(['constant.mp3', 'variable.mp3', 'untagged.mp3', 'mono.mp3', 'stereo.ogg', 'six.ogg', 'six.opus'])(
    'is the very samples of %s, and can be read in any place',
    async (name) => {
      const whole = await readSound(fileOf(name), name);
      const { bytes, told } = await unrolled(fileOf(name), name);
      const sound = (await openSeekable(bytesOf(bytes), name))!;
      expect([sound.sampleRateHz, sound.frames]).toEqual([whole.sampleRateHz, whole.channels[0]!.length]);
      const from = Math.floor(sound.frames / 3);
      expect(await sound.read(from, sound.frames)).toEqual(whole.channels.map((channel) => channel.slice(from)));
      expect(told).toEqual([...told].sort((a, b) => a - b));
      expect(told.at(-1)).toBe(1);
    },
  );

  it('of a damaged file ends with the reason, and has no end', async () => {
    const sink = new BytesSink();
    const cut = fileOf('stereo.ogg').subarray(0, 9000);
    const all = async () => {
      for await (const done of unroll(bytesOf(cut), 'stereo.ogg', sink)) void done;
    };
    await expect(all()).rejects.toMatchObject({ code: 'file.broken' });
    expect(sink.bytes).toBeNull();
  });
});
