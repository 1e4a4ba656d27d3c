import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { noise } from '../../test/support/noise';
import { measureLevels, type Levels } from '@/core/analysis/levels';
import { measureField, type StereoField } from '@/core/analysis/stereoField';
import { readSound } from '@/core/formats/readSound';
import { writeWav } from '@/core/formats/wav';
import { processSound, measureSound } from './commands';
import { writeSwell } from './swell';

const RATE = 8000;
/** Sounds of more than a minute are read in parts. */
const SECONDS = 70;
const sides = noise(SECONDS * RATE, 2);

describe('a long file on the command line', () => {
  const folder = mkdtempSync(join(tmpdir(), 'kinetikon-long-'));
  const path = (name: string) => join(folder, name);
  const read = (name: string) => readSound(new Uint8Array(readFileSync(path(name))), name);
  const lines: string[] = [];
  const notes: string[] = [];
  const done: number[] = [];
  const terminal = {
    out: (line: string) => lines.push(line),
    note: (line: string) => notes.push(line),
    progress: (part: number) => done.push(part),
  };
  const kept = [noise(RATE, 2), sides].map((channels) => ({ sampleRateHz: RATE, channels }));
  const shortOne = () => path('short.wav');
  const longOne = () => path('long.wav');

  beforeAll(() => {
    writeFileSync(shortOne(), writeWav(kept[0]!, '32f'));
    writeFileSync(longOne(), writeWav(kept[1]!, '32f'));
  });
  beforeEach(() => [lines, notes, done].forEach((list) => list.splice(0)));
  afterAll(() => rmSync(folder, { recursive: true }));

  it('goes through a chain as it stands, with another to listen to, and its tail behind it', async () => {
    const chain = ['--format', '32f', '--effect', 'utility', '--set', 'gain=-6', '--tail', '0.5'];
    await processSound([longOne(), '-o', path('soft.wav'), ...chain, '--key', longOne()], terminal);
    const { channels } = await read('soft.wav');
    expect(channels.map(({ length }) => length)).toEqual([(SECONDS + 0.5) * RATE, (SECONDS + 0.5) * RATE]);
    const gain = 10 ** (-6 / 20);
    // The gain glides in at the beginning.
    for (let n = RATE; n < sides[0]!.length; n += 997) expect(channels[1]![n]! / sides[1]![n]!).toBeCloseTo(gain, 5);
    expect(done.every((part, n) => n === 0 || part >= done[n - 1]!)).toBe(true);
    expect(done.at(-1)).toBe(1);
  });

  it('is normalised in a second pass to the very level, in 24 bits too', async () => {
    await processSound([longOne(), '-o', path('loud.flac'), '--normalise', '--effect', 'utility'], terminal);
    expect(notes).toEqual([expect.stringMatching(/^The sound is (lifted|lowered) by/)]);
    expect(measureLevels(await read('loud.flac')).truePeakDb).toBeCloseTo(-1, 2);
    expect(readdirSync(folder).filter((name) => name.startsWith('.') || name.endsWith('.mix'))).toEqual([]);
  });

  it('is measured as it is as a whole', async () => {
    await measureSound([longOne(), '--json'], terminal);
    const { field, ...levels } = JSON.parse(lines.join('')) as Levels & { field: StereoField };
    expect(levels).toEqual(measureLevels(kept[1]!));
    expect(field).toEqual(JSON.parse(JSON.stringify(measureField(sides[0]!, sides[1]!, RATE))));
  });

  it('makes the swell that the same word makes in a short one', async () => {
    const [land, length] = [64.5, 0.4];
    const word = sides.map((side) => side.slice(land * RATE, (land + length) * RATE));
    writeFileSync(path('word.wav'), writeWav({ sampleRateHz: RATE, channels: word }, '32f'));
    const how = ['--source', String(length), '--length', '0.8', '--format', '32f'];
    await writeSwell([longOne(), '-o', path('a.wav'), '--land', String(land), ...how], terminal);
    await writeSwell([path('word.wav'), '-o', path('b.wav'), '--land', '0', ...how], terminal);
    expect(readFileSync(path('a.wav')).equals(readFileSync(path('b.wav')))).toBe(true);
    await expect(writeSwell([longOne(), '-o', path('c.wav'), '--land', '71'], terminal)).rejects.toThrow(
      '--land takes 0 to 70 seconds',
    );
  });

  it('that is cut short is refused before it is rendered, and nothing is left', async () => {
    const whole = readFileSync(longOne());
    writeFileSync(path('cut.wav'), whole.subarray(0, whole.length - 4000));
    const before = readdirSync(folder);
    await expect(
      processSound([path('cut.wav'), '-o', path('never.wav'), '--effect', 'utility'], terminal),
    ).rejects.toThrow('cut.wav');
    expect(done).toEqual([]);
    expect(readdirSync(folder)).toEqual(before);
  });
});
