/** Works out the filters of air for the rates of sessions, which takes too long for the audio thread. */
import '../src/core/wasm/embedded';
import { writeFileSync } from 'node:fs';
import { AirFilters } from '@/core/dsp/airFilter';
import { RATES_HZ } from '@/core/session/records/session';

const rows = RATES_HZ.map((rate) => {
  const designs = new AirFilters(rate).allDesigns().map(({ a1, a2, b1, b2 }) => `[${[a1, a2, b1, b2].join(', ')}]`);
  return `[${rate}, [${designs.join(', ')}]]`;
});
writeFileSync(
  'src/core/dsp/airDesigns.ts',
  `/** By script/airDesigns.ts: a1, a2, b1, b2 of every design of \`AirFilters\`, by sample rate. */
export const AIR_DESIGNS: ReadonlyMap<number, readonly (readonly [number, number, number, number])[]> = new Map([
  ${rows.join(',\n  ')},
]);
`,
);
