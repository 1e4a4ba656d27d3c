import { PLAIN_TIMING } from '@/core/effects/noteValues';
import type { RoomMeasures } from '@/core/dsp/decay';
import { SHIPPED_IMPULSES } from '@/core/effects/convolution/impulses/shipped';
import { simulatorById, SIMULATORS } from '@/core/effects/convolution/impulses/simulators';
import { atPeak, impulseBy, type Simulator } from '@/core/effects/convolution/impulses/simulator';
import { describeRange, parseValue } from '@/core/effects/parameterText';
import { HIGHEST_SEED } from '@/core/effects/settings';
import type { ParameterValue } from '@/core/effects/values';
import { writeSound } from '@/core/formats/writeSound';
import { numberBetween, one, parseArguments, splitOnce, usage } from './arguments';
import { writeWhole } from './files';
import { writtenAs } from './output';
import type { Terminal } from './terminal';

/** A simulator by its id, or one that ships by its own. */
function chosen(kind: string): { simulator: Simulator; values: Record<string, ParameterValue>; seed: number } {
  const simulator = simulatorById(kind);
  if (simulator) return { simulator, values: {}, seed: 1 };
  const shipped = SHIPPED_IMPULSES.find(({ id }) => id === kind);
  if (shipped) return { ...shipped, simulator: simulatorById(shipped.simulator)!, values: { ...shipped.values } };
  const kinds = SIMULATORS.map(({ id }) => id).join(', ');
  const ids = SHIPPED_IMPULSES.map(({ id }) => id).join(', ');
  throw usage(`There is no impulse "${kind}". Simulators: ${kinds}. Those that ship: ${ids}.`);
}

/** `impulse`: works an impulse response out into a file. */
export async function writeImpulse(args: readonly string[], terminal: Terminal): Promise<void> {
  const options = parseArguments(args, {
    '-o': true,
    '--set': true,
    '--seed': true,
    '--rate': true,
    '--list': false,
  });
  if (one(options, '--list') !== undefined) return list(terminal);
  const [kind, ...others] = options.positional;
  if (kind === undefined) throw usage('impulse needs a simulator or an impulse that ships; --list names them.');
  if (others.length > 0) throw usage(`impulse takes one kind, not also "${others[0]}".`);
  const output = one(options, '-o');
  if (output === undefined) throw usage('impulse needs -o OUT.');
  const { simulator, values, seed: own } = chosen(kind);
  for (const [name, text] of options.named) {
    if (name !== '--set') continue;
    if (!text.includes('=')) throw usage(`--set takes NAME=VALUE, not "${text}".`);
    const [id, written] = splitOnce(text);
    const parameter = simulator.parameters.find((known) => known.id === id);
    if (!parameter) {
      throw usage(
        `${simulator.id} has no parameter ${id}; it has ${simulator.parameters.map((p) => p.id).join(', ')}.`,
      );
    }
    values[id] = parseValue(parameter, written, PLAIN_TIMING);
  }
  const seedText = one(options, '--seed');
  const seed = seedText === undefined ? own : Math.round(numberBetween('--seed', seedText, 0, HIGHEST_SEED, ''));
  const rate = Math.round(numberBetween('--rate', one(options, '--rate') ?? '48000', 8000, 192000, 'Hz'));
  const paths = impulseBy(simulator, values, seed, rate, (done) => terminal.progress(done));
  terminal.progress(1);
  const sound = { sampleRateHz: rate, channels: atPeak(paths, 0.9) };
  await writeWhole(output, await writeSound(sound, writtenAs(output) === 'flac' ? 'flac' : '32f'));
}

function list(terminal: Terminal): void {
  for (const { id, purpose, parameters } of SIMULATORS) {
    terminal.out(`${id}: ${purpose}`);
    const width = Math.max(...parameters.map((one) => one.id.length));
    for (const one of parameters) terminal.out(`  ${one.id.padEnd(width)}  ${describeRange(one)}. ${one.help}`);
    terminal.out('');
  }
  for (const { id, about } of SHIPPED_IMPULSES) terminal.out(`${id.padEnd(18)} ${about}`);
}

/** The lines of `measure --impulse` about a room. */
export function roomLines(room: RoomMeasures): string[] {
  if (room.silent) return ['decay         silence'];
  const { octaves, t30, edt, c50, c80, arrivalSeconds, denseSeconds } = room;
  const seconds = (value: number | null) => (value === null ? 'not to be seen' : `${value.toFixed(2)} s`);
  return [
    `decay (T30)   ${seconds(t30)}, early decay ${seconds(edt)}`,
    ...octaves.map(({ centreHz, t30: own, edt: early }) => {
      const name = centreHz < 1000 ? `${centreHz} Hz` : `${centreHz / 1000} kHz`;
      return `  ${name.padEnd(10)}  ${seconds(own)}, early decay ${seconds(early)}`;
    }),
    `clarity       C50 ${c50.toFixed(1)} dB, C80 ${c80.toFixed(1)} dB`,
    `first sound   after ${(1000 * arrivalSeconds).toFixed(1)} ms`,
    `dense         ${denseSeconds === null ? 'never' : `${(1000 * denseSeconds).toFixed(0)} ms after that`}`,
  ];
}
