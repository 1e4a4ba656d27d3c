const SECONDS = 20;

/** Real-time factor of the browser's own convolver with a stereo sound, the best of three. */
export async function browserConvolution(
  impulse: readonly [Float32Array, Float32Array],
  rate: number,
): Promise<number> {
  // Not before: once it is there, everything else runs slower.
  const { chromium } = await import('@playwright/test');
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium' });
  try {
    const page = await browser.newPage();
    return await page.evaluate(
      async ({ sides, rate, seconds }) => {
        const bufferOf = (length: number, fill: (side: number) => Float32Array<ArrayBuffer>) => {
          const buffer = new AudioBuffer({ length, numberOfChannels: 2, sampleRate: rate });
          for (const side of [0, 1]) buffer.copyToChannel(fill(side), side);
          return buffer;
        };
        const decode = (text: string) => new Float32Array(Uint8Array.from(atob(text), (c) => c.charCodeAt(0)).buffer);
        const responses = sides.map(decode);
        const response = bufferOf(responses[0]!.length, (side) => responses[side]!);
        const sound = bufferOf(seconds * rate, () =>
          Float32Array.from({ length: seconds * rate }, () => Math.random() - 0.5),
        );
        let least = Infinity;
        for (let run = 0; run < 3; run++) {
          const context = new OfflineAudioContext(2, seconds * rate, rate);
          const source = new AudioBufferSourceNode(context, { buffer: sound });
          source.connect(new ConvolverNode(context, { buffer: response })).connect(context.destination);
          source.start();
          const began = performance.now();
          await context.startRendering();
          least = Math.min(least, (performance.now() - began) / 1000);
        }
        return seconds / least;
      },
      { sides: impulse.map((side) => Buffer.from(side.buffer).toString('base64')), rate, seconds: SECONDS },
    );
  } finally {
    await browser.close();
  }
}
