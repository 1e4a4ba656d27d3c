import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import '@/core/wasm/embedded';
import { longMp3 } from '../../../test/support/encodedSounds';
import { bytesOf } from '@/core/formats/fileBytes';
import { readSound } from '@/core/formats/readSound';
import type { RenderRequest } from '@/core/session/renderRequests';
import { DecodedSounds } from './decodedSounds';
import { runRequest } from './runRequest';

const folder = mkdtempSync(join(tmpdir(), 'kinetikon-long-'));
afterAll(() => rmSync(folder, { recursive: true }));

const id = 'a'.repeat(64);

describe('a long sound in a render', () => {
  it('gives the very file and figures that it gives whole, also where it can only be read from its beginning', async () => {
    const name = 'tide.mp3';
    const bytes = longMp3();
    const { channels, sampleRateHz } = await readSound(bytes, name);
    const frames = channels[0]!.length;
    expect(frames / sampleRateHz).toBeGreaterThan(60);
    const request: RenderRequest = {
      kind: 'chain',
      effects: [{ effect: 'utility', bypass: false, values: { gain: -3 } }],
      sound: { id, frames, sampleRateHz },
      tailSeconds: 'auto',
      format: '24',
    };
    let read = 0;
    const fileOf = async () => {
      const file = bytesOf(bytes);
      return { name, size: file.size, read: (from: number, to: number) => ((read += to - from), file.read(from, to)) };
    };
    const output = join(folder, name);
    const decoded = new DecodedSounds();
    const paged = await runRequest(request, fileOf, output, { decoded });
    const made = readFileSync(output);
    // Nothing was decoded as a whole, and nothing is left beside the file.
    expect(decoded.has(id, sampleRateHz)).toBe(false);
    expect(readdirSync(folder).filter((one) => one.startsWith(name))).toEqual([name]);
    expect(read).toBeGreaterThan(bytes.length);
    await decoded.of(id, sampleRateHz, fileOf);
    expect(await runRequest(request, fileOf, output, { decoded })).toEqual(paged);
    expect(Buffer.compare(readFileSync(output), made)).toBe(0);
  });

  it('that is damaged ends it with the reason, and leaves nothing beside', async () => {
    jest.spyOn(console, 'error').mockImplementation(() => {});
    const bytes = longMp3();
    bytes.fill(0x55, 500000, 520000);
    const request: RenderRequest = {
      kind: 'chain',
      effects: [],
      sound: { id, frames: 48000 * 70, sampleRateHz: 48000 },
      tailSeconds: 0,
      format: '24',
    };
    const output = join(folder, 'damaged');
    const fileOf = async () => ({ name: 'tide.mp3', ...bytesOf(bytes) });
    const seen = await runRequest(request, fileOf, output).then(
      () => 'read',
      (error: Error) => error.message,
    );
    expect(seen).toContain('tide.mp3: it is damaged');
    expect(readdirSync(folder).filter((one) => one.startsWith('damaged.'))).toEqual([]);
  });
});
