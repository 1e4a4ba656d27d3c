/** Levels in dB by band, from the lowest up. */
export interface BandLevels {
  readonly hz: readonly number[];
  readonly voice: readonly number[];
  readonly carrier: readonly number[];
}

/** A voice whose loudest band is under this is too low for a bank. */
const LOW_VOICE_DB = -52;
const SILENT_DB = -90;
/** A carrier has nothing where it is so far under its own loudest band ... */
const WEAK_DB = 45;
/** ... while the voice is no farther than this under its loudest. */
const MATTERS_DB = 30;

const named = (hz: number) => (hz >= 1000 ? `${(hz / 1000).toFixed(1)} kHz` : `${Math.round(hz)} Hz`);

/** Stretches of bands that lie together, from the first's middle to the last's. */
function stretches(bands: readonly number[], hz: readonly number[]): string[] {
  const found: [number, number][] = [];
  for (const band of bands) {
    const last = found.at(-1);
    if (last && last[1] === band - 1) last[1] = band;
    else found.push([band, band]);
  }
  return found.map(([from, to]) => (from === to ? named(hz[from]!) : `${named(hz[from]!)} to ${named(hz[to]!)}`));
}

/** Warnings, from band levels while the voice speaks, of what makes the words hard to understand. */
export function warningsOf({ hz, voice, carrier }: BandLevels, sameInputs: boolean): string[] {
  const loudest = Math.max(...voice);
  const strongest = Math.max(...carrier);
  const warnings: string[] = [];
  if (sameInputs) {
    warnings.push('Voice and carrier are the same sound: choose a track as carrier, or the built-in one.');
  }
  if (loudest < SILENT_DB) return warnings;
  if (loudest < LOW_VOICE_DB)
    warnings.push(`The voice is very low here: ${Math.round(loudest)} dB in its loudest band.`);
  if (strongest < SILENT_DB) return [...warnings, 'The carrier is silent.'];
  const empty = hz.flatMap((_, band) =>
    voice[band]! > loudest - MATTERS_DB && carrier[band]! < strongest - WEAK_DB ? [band] : [],
  );
  if (empty.length > 0)
    warnings.push(`The carrier has nothing where the voice has: ${stretches(empty, hz).join(', ')}.`);
  return warnings;
}
