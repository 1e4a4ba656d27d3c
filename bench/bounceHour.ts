/**
 * An hour of sound bounced to 32 bit floating point in this process: `npm run bench:hour` prints how long it takes, and the
 * memory over that of a short bounce.
 */
import '../src/core/wasm/embedded';
import { mkdtempSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { openWriter } from '../src/core/formats/writeSound';
import type { RenderRequest } from '../src/core/session/renderRequests';
import { DiskSink, diskFile } from '../src/server/renders/diskFiles';
import { runRequest } from '../src/server/renders/runRequest';

const RATE = 48000;
const folder = mkdtempSync(join(tmpdir(), 'kinetikon-hour-'));

/** Writes two sides of chirps. */
async function writeMaterial(path: string, seconds: number): Promise<void> {
  const second = [0, 1].map((side) =>
    Float32Array.from({ length: RATE }, (_, n) => 0.3 * Math.sin((2 + side) * 1e-5 * n * n)),
  );
  const writer = await openWriter(RATE, 2, '16', seconds * RATE);
  const sink = new DiskSink(path);
  for (let at = 0; at < seconds; at++) sink.write(writer.write(second));
  const { rest, head } = writer.end();
  sink.write(rest);
  sink.end(head);
}

async function bounced(seconds: number): Promise<{ seconds: number; peakBytes: number }> {
  const [source, output] = [join(folder, 'source'), join(folder, 'output')];
  await writeMaterial(source, seconds);
  const file = await diskFile(source);
  const request: RenderRequest = {
    kind: 'chain',
    effects: [{ effect: 'delay', bypass: false, values: {} }],
    sound: { id: 'a'.repeat(64), frames: seconds * RATE, sampleRateHz: RATE },
    tailSeconds: 'auto',
    format: '32f',
  };
  let peakBytes = 0;
  const look = () => (peakBytes = Math.max(peakBytes, process.memoryUsage().rss));
  const began = performance.now();
  const { bytes } = await runRequest(request, async () => ({ ...file, name: 'hour' }), output, { onProgress: look });
  const took = (performance.now() - began) / 1000;
  await file.close();
  if (bytes !== statSync(output).size) throw new Error('The file is not as long as was told');
  return { seconds: took, peakBytes };
}

async function main(): Promise<void> {
  const { peakBytes: before } = await bounced(70);
  const hour = await bounced(3600);
  const over = (hour.peakBytes - before) / 1024 ** 2;
  console.log(
    `an hour through an echo: ${hour.seconds.toFixed(0)} s, ` +
      `${over.toFixed(0)} MiB over a bounce of 70 s (${(before / 1024 ** 2).toFixed(0)} MiB)`,
  );
  rmSync(folder, { recursive: true });
}

void main();
