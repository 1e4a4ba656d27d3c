import { PLAIN_TIMING } from '@/core/effects/noteValues';
import { LevelMeter, type Levels } from '@/core/analysis/levels';
import { pitchCourse } from '@/core/analysis/pitch';
import { centreHz, fieldOf, SpectraMeter, type FieldBand, type StereoField } from '@/core/analysis/stereoField';
import { measureRoom, type RoomMeasures } from '@/core/dsp/decay';
import { describeRange, formatValue } from '@/core/effects/parameterText';
import { effectById, EFFECTS } from '@/core/effects/registry';
import { describeSetting } from '@/core/effects/settings';
import { controlsOf } from '@/core/effects/spec';
import { LONGEST_TAIL_SECONDS, type PlanInsert } from '@/core/engine/plan';
import { planNotes } from '@/core/engine/planNotes';
import { CHAIN_KEY, CHAIN_SOUND, planOfChain } from '@/core/engine/plans';
import { tailOf } from '@/core/engine/render';
import type { MidiSong } from '@/core/formats/midi';
import { middleOf, stereoOf, type Sound } from '@/core/formats/sound';
import type { LongSound } from '@/core/jobs/place';
import { keyOfHz } from '@/core/math/keys';
import { numberBetween, one, parseArguments, usage, type Options } from './arguments';
import { chainFrom, soundsAtRate, withResources } from './chain';
import { madeWhole, readSongFile, readSoundFile, readThrough } from './files';
import { roomLines } from './impulses';
import { Inputs, type Input } from './inputs';
import { OUTPUT, outputOf, renderSound } from './output';
import type { Terminal } from './terminal';

/** `effects`: every effect with parameters, units, ranges and defaults. */
export function listEffects(args: readonly string[], terminal: Terminal): void {
  const options = parseArguments(args, { '--json': false });
  if (options.positional.length > 0) throw usage(`effects takes no "${options.positional[0]}".`);
  if (one(options, '--json') !== undefined) {
    terminal.out(JSON.stringify(EFFECTS, null, 2));
    return;
  }
  for (const spec of EFFECTS) {
    terminal.out(`${spec.id}: ${spec.purpose}`);
    const { settings = [] } = spec;
    const width = Math.max(...controlsOf(spec).map(({ id }) => id.length));
    for (const parameter of spec.parameters) {
      const standard =
        typeof parameter.default === 'string'
          ? parameter.default
          : formatValue(parameter, parameter.default, PLAIN_TIMING);
      terminal.out(
        `  ${parameter.id.padEnd(width)}  ${describeRange(parameter)}; default ${standard}. ${parameter.help}`,
      );
    }
    for (const setting of settings) {
      const { id, help } = setting;
      terminal.out(`  ${id.padEnd(width)}  ${describeSetting(setting)}; default ${setting.default}. ${help}`);
    }
    terminal.out('');
  }
}

/** Options of all that renders a chain into a file. */
const RENDERING = {
  ...OUTPUT,
  '--effect': true,
  '--key': true,
  '--set': true,
  '--preset': true,
  '--notes': true,
  '--tempo': true,
  '--tail': true,
  '--rate': true,
} as const;

/** `process`: a sound through a chain of effects into a file. */
export async function processSound(args: readonly string[], terminal: Terminal): Promise<void> {
  const options = parseArguments(args, RENDERING);
  const [input, ...others] = options.positional;
  if (input === undefined) throw usage('process needs a sound file.');
  if (others.length > 0) throw usage(`process takes one sound file, not also "${others[0]}".`);
  const notes = one(options, '--notes');
  const song = notes === undefined ? null : await readSongFile(notes);
  await renderInto(options, terminal, 'process', song, (inputs, rate) => inputs.file(CHAIN_SOUND, input, rate));
}

/** Longest piece that `play` renders. */
const LONGEST_PLAYED_SECONDS = 3600;
/** Rate of a sound that is made of notes alone. */
const PLAIN_RATE = 48000;

/** `play`: the notes of a MIDI file, as the effects of a chain play them, into a sound file. */
export async function playNotes(args: readonly string[], terminal: Terminal): Promise<void> {
  const options = parseArguments(args, RENDERING);
  const [input, ...others] = options.positional;
  if (input === undefined) throw usage('play needs a MIDI file.');
  if (others.length > 0) throw usage(`play takes one MIDI file, not also "${others[0]}".`);
  if (one(options, '--notes') !== undefined) throw usage('play takes its notes from its file, not also from --notes.');
  const song = await readSongFile(input);
  const notes = song.parts.flatMap((part) => part.notes);
  if (notes.length === 0) throw usage(`${input} has no notes.`);
  const end = notes.reduce((last, { startBeat, lengthBeats }) => Math.max(last, startBeat + lengthBeats), 0);
  await renderInto(options, terminal, 'play', song, async (inputs, rate = PLAIN_RATE, tempoBpm) => {
    const seconds = (end * 60) / tempoBpm;
    if (seconds > LONGEST_PLAYED_SECONDS) {
      throw usage(
        `play takes notes of up to ${LONGEST_PLAYED_SECONDS} s; those of ${input} last ${seconds.toFixed(0)} s.`,
      );
    }
    return inputs.silence(CHAIN_SOUND, Math.ceil(seconds * rate), rate);
  });
}

/** Notes of a file for those effects of a chain that play any. */
function withNotes(inserts: readonly PlanInsert[], song: MidiSong, framesPerBeat: number): PlanInsert[] {
  const notes = planNotes(
    song.parts.flatMap((part) => part.notes),
    framesPerBeat,
  );
  return inserts.map((insert) => (effectById(insert.effect).playsNotes ? { ...insert, notes } : insert));
}

/**
 * Renders a chain into a file.
 * @param song notes for the effects that play any
 * @param source what goes into the chain, at the rate that is asked for or its own
 */
async function renderInto(
  options: Options,
  terminal: Terminal,
  command: string,
  song: MidiSong | null,
  source: (inputs: Inputs, rate: number | undefined, tempoBpm: number) => Promise<Input>,
): Promise<void> {
  const { output } = outputOf(options, command);
  const tempoText = one(options, '--tempo') ?? String(song?.tempoBpm ?? 120);
  const tempoBpm = numberBetween('--tempo', tempoText, 20, 300, 'beats a minute');
  const tail = one(options, '--tail');
  const askedTail = tail === undefined ? null : numberBetween('--tail', tail, 0, 600, 'seconds');
  const chosen = await chainFrom(options, { tempoBpm, beatsPerBar: 4 });
  if (chosen.inserts.length === 0) throw usage(`${command} needs at least one --effect.`);
  if (song && !chosen.inserts.some(({ effect }) => effectById(effect).playsNotes)) {
    const players = EFFECTS.filter(({ playsNotes }) => playsNotes).map(({ id }) => id);
    throw usage(`No effect of the chain plays notes; these do: ${players.join(', ')}.`);
  }
  const rateText = one(options, '--rate');
  const askedRate =
    rateText === undefined ? undefined : Math.round(numberBetween('--rate', rateText, 8000, 192000, 'Hz'));

  await madeWhole(output, async (path) => {
    const inputs = new Inputs(path, terminal);
    try {
      const { rate, frames, sound } = await source(inputs, askedRate, tempoBpm);
      const keyFile = one(options, '--key');
      const key = keyFile === undefined ? null : await inputs.file(CHAIN_KEY, keyFile, rate);
      const sounds = soundsAtRate(chosen, rate, terminal);
      const inserts = song ? withNotes(chosen.inserts, song, (rate * 60) / tempoBpm) : chosen.inserts;
      const plan = planOfChain(withResources(inserts, rate), rate, frames, key?.frames);
      const rings = askedTail === null ? tailOf(plan, sounds) : 0;
      if (rings > LONGEST_TAIL_SECONDS) {
        terminal.note(
          `The effects sound on for longer than ${LONGEST_TAIL_SECONDS} s; the rest is cut off: --tail sets it.`,
        );
      }
      const tailSeconds = askedTail ?? Math.min(LONGEST_TAIL_SECONDS, rings);
      const others = [...sounds].map(([assetId, one]) => ({ assetId, ...one }));
      const samples = [...others, sound, ...(key ? [key.sound] : [])];
      const range = { fromFrame: 0, toFrame: frames, tailSeconds };
      const open = (long: LongSound) => inputs.opened(long);
      await renderSound({ plan, samples, range }, open, path, options, command, terminal);
    } finally {
      await inputs.close();
    }
  });
}

/** The field between both sides, a line each. */
function fieldLines({ tiltDb, octaves, panningDb, worst }: StereoField): string[] {
  const figure = (value: number | null, digits: number) => (value === null ? '-' : value.toFixed(digits));
  const centre = (band: FieldBand) => `${Number(centreHz(band).toPrecision(3))} Hz`;
  return [
    `tilt          ${tiltDb === null ? 'one side is silent' : Math.abs(tiltDb) < 0.05 ? 'none' : `${Math.abs(tiltDb).toFixed(1)} dB to the ${tiltDb > 0 ? 'left' : 'right'}`}`,
    ...(panningDb !== null && panningDb >= 0.05
      ? [`panning       makes mono ${panningDb.toFixed(1)} dB softer; what is lost is beside that`]
      : []),
    ...(worst ? [`worst third   ${worst.monoLossDb!.toFixed(1)} dB lost in mono at ${centre(worst)}`] : []),
    'octave        correlation  lost in mono',
    ...octaves.map(
      (band) =>
        `${centre(band).padEnd(12)}  ${figure(band.correlation, 2).padStart(11)}  ${`${figure(band.monoLossDb, 1)} dB`.padStart(12)}`,
    ),
  ];
}

/** The course of a sound's pitch as a table: seconds, Hz, key with parts of a semitone, confidence; blank without a voice. */
function writePitch(sound: Sound, terminal: Terminal): void {
  const { left, right } = stereoOf(sound);
  const { hz, confidence, hopSeconds } = pitchCourse(middleOf(left, right), sound.sampleRateHz);
  terminal.out('seconds,hz,key,confidence');
  hz.forEach((one, n) => {
    const pitch = one > 0 ? `${one.toFixed(2)},${keyOfHz(one).toFixed(2)}` : ',';
    terminal.out(`${(n * hopSeconds).toFixed(3)},${pitch},${confidence[n]!.toFixed(2)}`);
  });
}

/** Levels of a sound file, and the field of one that has two channels or more. */
async function measureFile(path: string): Promise<{ levels: Levels; field: StereoField | null }> {
  const meters: { levels?: LevelMeter; spectra?: SpectraMeter } = {};
  try {
    await readThrough(path, (piece, sampleRateHz) => {
      meters.levels ??= new LevelMeter(sampleRateHz, piece.length);
      meters.levels.take(piece);
      const [left, right] = piece;
      if (!right) return;
      meters.spectra ??= new SpectraMeter(sampleRateHz);
      meters.spectra.take(left!, right);
    });
    const { levels, spectra } = meters;
    return { levels: levels!.end(), field: spectra ? fieldOf(spectra.end()) : null };
  } finally {
    meters.levels?.free();
  }
}

async function measureImpulse(path: string): Promise<RoomMeasures> {
  const { channels, sampleRateHz } = await readSoundFile(path);
  return measureRoom(channels.slice(0, 2), sampleRateHz);
}

/** `measure`: loudness, peaks, the field between the sides and what mono loses; with --impulse decay and clarity as well. */
export async function measureSound(args: readonly string[], terminal: Terminal): Promise<void> {
  const options = parseArguments(args, { '--json': false, '--impulse': false, '--pitch': false });
  const [input, ...others] = options.positional;
  if (input === undefined) throw usage('measure needs a sound file.');
  if (others.length > 0) throw usage(`measure takes one sound file, not also "${others[0]}".`);
  if (one(options, '--pitch') !== undefined) {
    if (options.named.length > 1) throw usage('--pitch writes a table, and goes with no other option of measure.');
    writePitch(await readSoundFile(input), terminal);
    return;
  }
  const { levels, field } = await measureFile(input);
  const room = one(options, '--impulse') === undefined ? null : await measureImpulse(input);
  if (one(options, '--json') !== undefined) {
    terminal.out(JSON.stringify({ ...levels, ...(field ? { field } : {}), ...(room ? { room } : {}) }, null, 2));
    return;
  }
  const figure = (value: number | null, unit: string, digits = 1) =>
    value === null ? 'silence' : `${value.toFixed(digits)} ${unit}`;
  if (levels.channels > 2) {
    terminal.note('Loudness counts all channels as BS.1770-4 does; correlation and mono are those of the first two.');
  }
  terminal.out(`length        ${levels.seconds.toFixed(3)} s, ${levels.channels} channels, ${levels.sampleRateHz} Hz`);
  terminal.out(`loudness      ${figure(levels.loudnessLufs, 'LUFS')}`);
  terminal.out(`true peak     ${figure(levels.truePeakDb, 'dBTP')}`);
  terminal.out(`sample peak   ${figure(levels.peakDb, 'dBFS')}, ${levels.overs} over full scale`);
  terminal.out(`RMS           ${figure(levels.rmsDb, 'dBFS')}`);
  terminal.out(
    `correlation   ${levels.correlation === null ? 'none, one side is silent' : levels.correlation.toFixed(2)}`,
  );
  terminal.out(
    `lost in mono  ${levels.monoLossLu === null ? 'everything or nothing to lose' : `${levels.monoLossLu.toFixed(1)} LU`}`,
  );
  for (const line of field ? fieldLines(field) : []) terminal.out(line);
  for (const line of room ? roomLines(room) : []) terminal.out(line);
}
