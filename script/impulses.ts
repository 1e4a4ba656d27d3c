/** Measures the impulses that ship, for lists of them: run again when a simulator or its values change. */
import '../src/core/wasm/embedded';
import { writeFileSync } from 'node:fs';
import { measureRoom } from '../src/core/dsp/decay';
import { SHIPPED_IMPULSES } from '../src/core/effects/convolution/impulses/shipped';
import { shippedImpulse } from '../src/core/effects/convolution/prepare';

const RATE = 48000;
const rows = SHIPPED_IMPULSES.map(({ id }) => {
  const { t30, c80 } = measureRoom(shippedImpulse(id, RATE), RATE);
  return `  '${id}': { t30: ${t30 === null ? null : Number(t30.toPrecision(3))}, c80: ${c80.toFixed(1)} },`;
});
writeFileSync(
  'src/core/effects/convolution/impulses/measured.ts',
  [
    '/** Decay in seconds and clarity in dB of the impulses that ship, measured by script/impulses.ts. */',
    'export const MEASURED: Readonly<Record<string, { readonly t30: number | null; readonly c80: number }>> = {',
    ...rows,
    '};',
    '',
  ].join('\n'),
);
