import { readFileSync } from 'node:fs';
import { damaged } from '../../../../test/support/damaged';
import { writeWav } from '../wav';
import { blobBytes, bytesOf } from '../fileBytes';
import { aboutSound } from './aboutSound';

const file = (name: string) => new Uint8Array(readFileSync(`test/fixtures/sounds/${name}`));
const about = (bytes: Uint8Array) => aboutSound(bytesOf(bytes));

/** A WAV file with more chunks, before its samples or behind them. */
function withChunks(chunks: Readonly<Record<string, Uint8Array>>, channels = 1, behind = true): Uint8Array {
  const silence = Array.from({ length: channels }, () => new Float32Array(480));
  const plain = writeWav({ sampleRateHz: 48000, channels: silence }, '24');
  const parts = Object.entries(chunks).map(([id, bytes]) => {
    const part = new Uint8Array(8 + bytes.length + (bytes.length & 1));
    part.set(Buffer.from(id, 'latin1'));
    new DataView(part.buffer).setUint32(4, bytes.length, true);
    part.set(bytes, 8);
    return part;
  });
  return new Uint8Array(
    Buffer.concat(behind ? [plain, ...parts] : [plain.subarray(0, 12), ...parts, plain.subarray(12)]),
  );
}

const numbers = (...values: readonly number[]) => new Uint8Array(Uint32Array.from(values).buffer);
const label = (number: number, name: string) =>
  Buffer.concat([Buffer.from('labl'), numbers(4 + name.length), numbers(number), Buffer.from(name)]);

describe('what files of other encoders tell', () => {
  it.each([
    ['told.wav', { startSeconds: 3600, title: 'Gate, take 2', date: '2026-03-02' }],
    ['told.flac', { title: 'Gate, take 2', date: '2026-03-01', tempoBpm: 96.5, key: 'D minor' }],
    [
      'told.mp3',
      {
        title: 'Gate, take 2',
        tempoBpm: 96,
        key: 'Dm',
        marks: [
          [0, 'Breath'],
          [0.1, 'Word'],
        ],
      },
    ],
    ['told.aiff', { title: 'Gate, take 2' }],
    ['told.ogg', { title: 'Gate, take 2', date: '2026-03-01', tempoBpm: 96.5, marks: [[0.1, 'Word']] }],
    ['told.opus', { title: 'Gate, take 2', date: '2026-03-01', key: 'D minor' }],
  ])('%s', async (name, expected) => {
    const { channels, told: found } = (await about(file(name)))!;
    const { marks, ...told } = found;
    const places = marks?.map((mark) => [mark.seconds, mark.name]);
    expect({ channels, ...told, ...(places ? { marks: places } : {}) }).toMatchObject({ channels: 2, ...expected });
  });

  it.each([
    ['six.wav', 6, 0x3f],
    ['six.flac', 6, 0x3f],
    ['six.ogg', 6, 0x3f],
    ['six.opus', 6, 0x3f],
    ['mono.mp3', 1, null],
    ['24.flac', 2, null],
  ])('%s has its speakers', async (name, channels, speakers) => {
    expect(await about(file(name))).toMatchObject({ channels, speakers });
  });

  it('reads a file of the browser in its places alone', async () => {
    const blob = new Blob([file('told.flac') as BlobPart]);
    expect(await aboutSound(blobBytes(blob))).toEqual(await about(file('told.flac')));
  });
});

describe('chunks of WAV', () => {
  const cues = Buffer.concat([
    numbers(2),
    numbers(7, 0, 0x61746164, 0, 0, 24000),
    numbers(3, 0, 0x61746164, 0, 0, 12000),
  ]);
  const labels = Buffer.concat([Buffer.from('adtl'), label(7, 'Breath'), label(3, 'Gate')]);

  it.each([true, false])('cue points have their labels and come in order, behind the samples: %s', async (behind) => {
    const told = await about(withChunks({ 'cue ': cues, LIST: labels }, 1, behind));
    expect(told?.told.marks).toEqual([
      { seconds: 0.25, name: 'Gate' },
      { seconds: 0.5, name: 'Breath' },
    ]);
  });

  it('cue points without labels are numbered', async () => {
    expect((await about(withChunks({ 'cue ': cues })))?.told.marks?.map(({ name }) => name)).toEqual(['1', '2']);
  });

  it('six channels without a mask are 5.1, four are not told, and a mask of zero says that there are no places', async () => {
    const plain = (channels: number) => {
      const bytes = withChunks({}, channels);
      // The head of more than two channels is extensible: as an older writer has it, it is plain PCM.
      new DataView(bytes.buffer).setUint16(20, 1, true);
      return about(bytes);
    };
    expect([(await plain(6))?.speakers, (await plain(8))?.speakers, (await plain(4))?.speakers]).toEqual([
      0x3f,
      0x63f,
      null,
    ]);
    expect((await about(withChunks({}, 4)))?.speakers).toBe(0);
  });
});

it('never fails on damaged files, and tells nothing that is out of range', async () => {
  for (const name of ['told.wav', 'told.flac', 'told.mp3', 'told.aiff', 'told.ogg', 'told.opus']) {
    for (let seed = 0; seed < 100; seed++) {
      const told = await about(damaged(file(name), seed));
      expect(told?.told.tempoBpm ?? 100).toBeGreaterThanOrEqual(20);
      expect(told?.told.startSeconds ?? 0).toBeLessThanOrEqual(129600);
      for (const { seconds } of told?.told.marks ?? []) expect(Number.isFinite(seconds)).toBe(true);
    }
  }
});

it('takes no count of cue points at its word', async () => {
  const lie = Buffer.concat([numbers(0xffffffff), numbers(1, 0, 0, 0, 0, 480)]);
  expect((await about(withChunks({ 'cue ': lie })))?.told.marks).toHaveLength(1);
});
