import { SHAPE_CHOICES } from '../oscillatorShapes';
import { duckParameters } from '../ducker';
import { keyOf } from '../keyInput';
import { delayMeters, GAIN_REDUCTION_METER } from '../meters';
import { choice, defineEffect, group, mixParameter, number, toggle, type Parameter } from '../spec';
import { DELAY_PRESETS } from './presets';
import { ARRANGEMENTS, FEED_IDS, LINES, type Arrangement } from './routing';

export const SHORTEST_MS = 0.1;
export const LONGEST_MS = 12000;
export const DRIVE_CURVES = ['soft', 'hard', 'fold', 'asymmetric'] as const;

const time = (id: string, name: string, help: string) =>
  number({ id, name, help, unit: 'ms', min: SHORTEST_MS, max: LONGEST_MS, default: '1/4', scale: 'log', sync: 'time' });

const CURVE_NAMES: Record<(typeof DRIVE_CURVES)[number], string> = {
  soft: 'Soft',
  hard: 'Hard',
  fold: 'Fold',
  asymmetric: 'Asymmetric',
};

const line: readonly Parameter[] = [
  ...group('Time', [
    toggle({ id: 'on', name: 'In use', default: false, help: 'Switches the line on; its sound fades in and out.' }),
    time('timeLeft', 'Left', 'How much later the repeats come on the left.'),
    {
      ...time('timeRight', 'Right', 'How much later the repeats come on the right.'),
      needs: { id: 'linked', not: true },
    },
    toggle({
      id: 'linked',
      name: 'Linked',
      default: true,
      help: 'The right side takes the time of the left, at the ratio that is set; otherwise it has its own.',
    }),
    number({
      id: 'rightRatio',
      name: 'Right ratio',
      needs: { id: 'linked', not: false },
      unit: '%',
      min: 25,
      max: 400,
      default: 100,
      scale: 'log',
      help: 'The time on the right as a part of that on the left, while both are linked; 100 % is the same.',
    }),
    number({
      id: 'feedback',
      name: 'Feedback',
      unit: '%',
      min: -110,
      max: 110,
      default: 30,
      scale: 'linear',
      help: 'How much of each repeat goes round again; below zero each pass is inverted.',
    }),
    toggle({ id: 'swap', name: 'Swap sides', default: false, help: 'Left and right change places on each pass.' }),
    choice({
      id: 'inputSide',
      name: 'Input to',
      default: 'both',
      choices: [
        { id: 'both', name: 'Both sides' },
        { id: 'left', name: 'Left only' },
        { id: 'right', name: 'Right only' },
      ],
      help: 'Which side the sound enters; one side only, with swap, makes repeats that bounce.',
    }),
  ]),
  ...group('Filter', [
    choice({
      id: 'filterType',
      name: 'Type',
      default: 'off',
      choices: [
        { id: 'off', name: 'Off' },
        { id: 'lowPass', name: 'Low-pass' },
        { id: 'highPass', name: 'High-pass' },
        { id: 'bandPass', name: 'Band-pass' },
        { id: 'notch', name: 'Notch' },
      ],
      help: 'Which part of the spectrum the repeats keep.',
    }),
    number({
      id: 'cutoff',
      needs: { id: 'filterType', not: 'off' },
      name: 'Cutoff',
      unit: 'Hz',
      min: 20,
      max: 20000,
      default: 4000,
      scale: 'log',
      help: 'Where the filter works.',
    }),
    number({
      id: 'resonance',
      needs: { id: 'filterType', not: 'off' },
      name: 'Resonance',
      unit: '',
      min: 0.5,
      max: 10,
      default: 0.707,
      scale: 'log',
      help: 'How sharply the filter speaks at its cutoff; 0.707 is smooth.',
    }),
    choice({
      id: 'slope',
      needs: { id: 'filterType', not: 'off' },
      name: 'Slope',
      default: '12',
      choices: [
        { id: '12', name: '12 dB/oct' },
        { id: '24', name: '24 dB/oct' },
      ],
      help: 'How steeply the filter falls.',
    }),
    choice({
      id: 'filterPlace',
      needs: { id: 'filterType', not: 'off' },
      name: 'Filter in',
      default: 'both',
      choices: [
        { id: 'both', name: 'Both' },
        { id: 'heard', name: 'Output only' },
        { id: 'loop', name: 'Loop only' },
      ],
      help: 'In the loop every pass is filtered again; in the output each repeat is filtered once.',
    }),
    choice({
      id: 'filterOrder',
      needs: { id: 'filterType', not: 'off' },
      name: 'Order',
      default: 'before',
      choices: [
        { id: 'before', name: 'Filter, drive' },
        { id: 'after', name: 'Drive, filter' },
      ],
      help: 'Filter before or after the drive.',
    }),
  ]),
  ...group('Sway', [
    number({
      id: 'modDepth',
      name: 'Depth',
      unit: '%',
      min: 0,
      max: 100,
      default: 0,
      scale: 'linear',
      help: 'How far the time swings, as a part of the time.',
    }),
    number({
      id: 'modRate',
      name: 'Rate',
      unit: 'Hz',
      min: 0.01,
      max: 20,
      default: 0.5,
      scale: 'log',
      sync: 'rate',
      help: 'How fast it swings.',
    }),
    choice({
      id: 'modShape',
      name: 'Shape',
      default: 'sine',
      choices: SHAPE_CHOICES,
      help: 'The course of the swing.',
    }),
    number({
      id: 'modPhase',
      name: 'Right phase',
      unit: 'degrees',
      min: 0,
      max: 360,
      default: 0,
      scale: 'linear',
      help: 'How far the right side is ahead of the left.',
    }),
    number({
      id: 'cutoffModDepth',
      needs: { id: 'filterType', not: 'off' },
      name: 'Cutoff swing',
      unit: 'octaves',
      min: -8,
      max: 8,
      default: 0,
      scale: 'linear',
      help: 'The same movement on the filter cutoff.',
    }),
  ]),
  ...group('Drive', [
    number({
      id: 'drive',
      name: 'Drive',
      unit: 'dB',
      min: 0,
      max: 36,
      default: 0,
      scale: 'linear',
      help: 'Saturates the repeats: peaks are rounded, what lies at -12 dB keeps its loudness, and how fast they fall stays as it is. Driven repeats come after 1.2 ms at the soonest.',
    }),
    choice({
      id: 'driveCurve',
      needs: { id: 'drive', not: 0 },
      name: 'Curve',
      default: 'soft',
      choices: DRIVE_CURVES.map((id) => ({ id, name: CURVE_NAMES[id] })),
      help: 'The character of the drive.',
    }),
  ]),
  ...group('Output', [
    number({
      id: 'level',
      name: 'Level',
      unit: 'dB',
      min: -100,
      max: 6,
      default: 0,
      scale: 'level',
      silentAtMin: true,
      help: 'How loud this line is among the repeats.',
    }),
    number({
      id: 'pan',
      name: 'Pan',
      unit: '%',
      min: -100,
      max: 100,
      default: 0,
      scale: 'linear',
      sides: true,
      help: 'Leans the repeats to a side by lowering the other.',
    }),
    toggle({ id: 'mute', name: 'Mute', default: false, help: 'Silences this line; it goes on turning.' }),
    toggle({ id: 'solo', name: 'Solo', default: false, help: 'Only soloed lines are heard.' }),
  ]),
];

const ARRANGEMENT_NAMES: Record<Arrangement, string> = {
  parallel: 'Side by side',
  series: 'In series',
  pairs: 'Pairs',
  ring: 'Ring',
  matrix: 'Custom matrix',
};

/** Description of a cell of the matrix, from its id. */
function feed(id: string): Parameter {
  const [, source, target] = id.split('.');
  const from = source === 'in' ? 'the input' : source === 'all' ? 'the sum of all lines' : `line ${source}`;
  return number({
    id,
    name: `${source === 'in' ? 'Input' : source === 'all' ? 'All' : `Line ${source}`} into ${target}`,
    group: 'Flow',
    needs: { id: 'routing', oneOf: ['matrix'] },
    unit: '%',
    min: -110,
    max: 110,
    default: id.startsWith('routing.in.') ? 100 : 0,
    scale: 'linear',
    help: `How much of ${from} goes into line ${target}; below zero inverted.`,
  });
}

/** A flaw of the medium: its amount and its switch. */
const flaw = (id: string, name: string, amount: number, on: boolean, help: string) => [
  number({
    id,
    name,
    needs: { id: 'wear', not: 'off' },
    switchedBy: `${id}On`,
    unit: '%',
    min: 0,
    max: 100,
    default: amount,
    scale: 'linear',
    help,
  }),
  toggle({
    id: `${id}On`,
    name: `${name} on`,
    needs: { id: 'wear', not: 'off' },
    default: on,
    help: `Switches the ${name.toLowerCase()} alone on and off.`,
  }),
];

/** The times that lines have when they are first put to use. */
const FIRST_TIMES = ['1/4', '1/8', '1/8d', '1/2', '1/4t', '1/16', '1/4d', '1bar'];

/** The right time of a linked line is inside the range of times, too. */
function refuseRatio(figure: (id: string) => number): string | null {
  for (let n = 1; n <= LINES; n++) {
    const line = `lines.${n}`;
    if (figure(`${line}.linked`) === 0) continue;
    const ratio = figure(`${line}.rightRatio`);
    const right = (figure(`${line}.timeLeft`) * ratio) / 100;
    if (right >= SHORTEST_MS - 1e-9 && right <= LONGEST_MS + 1e-6) continue;
    const ms = Number(right.toPrecision(4));
    return `${line}.rightRatio takes what keeps the time on the right in 0.1 ms to 12 s; ${ratio} % would be ${ms} ms.`;
  }
  return null;
}

export const delaySpec = defineEffect({
  id: 'delay',
  name: 'Delay',
  family: 'time',
  purpose:
    'Repeats of the sound, in milliseconds or in time with the music, on up to eight lines that feed one another.',
  synonyms: 'echo slapback slap ping-pong throw tape looper',
  picture: 'echogram',
  inputs: [keyOf('Duck')],
  meters: [GAIN_REDUCTION_METER, delayMeters(LINES)],
  reduces: ({ duckAmount = 0, safety = false }) => Number(duckAmount) > 0 || safety === true,
  suitsReturns: true,
  cyclesHz: (figure) => {
    const swaying = Array.from({ length: LINES }, (_, n) => `lines.${n + 1}.`).filter(
      (prefix) => figure(`${prefix}on`) === 1 && figure(`${prefix}modDepth`) > 0,
    );
    return swaying.length > 0 ? Math.min(...swaying.map((prefix) => figure(`${prefix}modRate`))) : null;
  },
  main: ['lines.1.timeLeft', 'lines.1.feedback', 'mix'],
  refuse: refuseRatio,
  exaggerates: [
    'lines.*.feedback',
    'lines.*.modDepth',
    'lines.*.cutoffModDepth',
    'wow',
    'flutter',
    'saturation',
    'mix',
  ],
  lists: [
    {
      id: 'lines',
      itemName: 'Line',
      count: LINES,
      switchedBy: 'on',
      parameters: line,
      itemDefaults: FIRST_TIMES.map((first, n) => ({ on: n === 0, timeLeft: first, timeRight: first })),
    },
  ],
  parameters: [
    ...group('Flow', [
      choice({
        id: 'routing',
        name: 'Arrangement',
        default: 'parallel',
        choices: ARRANGEMENTS.map((id) => ({ id, name: ARRANGEMENT_NAMES[id] })),
        help: 'Which line is fed by what; a custom matrix mixes everything.',
      }),
      choice({
        id: 'domain',
        name: 'Channels',
        default: 'leftRight',
        choices: [
          { id: 'leftRight', name: 'Left and right' },
          { id: 'midSide', name: 'Middle and sides' },
        ],
        help: 'Middle and sides: what is called left works on the middle, what is called right on the sides.',
      }),
      choice({
        id: 'timeChange',
        name: 'Time change',
        default: 'glide',
        choices: [
          { id: 'glide', name: 'Glide' },
          { id: 'crossfade', name: 'Crossfade' },
        ],
        help: 'While the time moves: a glide bends the pitch as tape does, a crossfade keeps it.',
      }),
      toggle({
        id: 'hold',
        name: 'Hold',
        default: false,
        help: 'The lines go on with what they hold, unchanged; nothing new comes in.',
      }),
    ]),
    ...FEED_IDS.map(feed),
    ...group('Wear', [
      choice({
        id: 'wear',
        name: 'Medium',
        default: 'off',
        choices: [
          { id: 'off', name: 'Off' },
          { id: 'tape', name: 'Tape' },
          { id: 'bucket', name: 'Bucket brigade' },
        ],
        help: 'What the repeats are kept on; a bucket brigade gets duller with longer times and hisses along.',
      }),
      ...flaw('wow', 'Wow', 20, true, 'Slow wavering of the speed.'),
      ...flaw('flutter', 'Flutter', 20, true, 'Fast wavering of the speed.'),
      ...flaw('hiss', 'Hiss', 15, true, 'Noise that comes with every pass.'),
      ...flaw('hum', 'Hum', 20, false, 'Mains hum that comes with every pass.'),
      choice({
        id: 'humFrequency',
        name: 'Mains',
        needs: { id: 'wear', not: 'off' },
        default: '50',
        choices: [
          { id: '50', name: '50 Hz' },
          { id: '60', name: '60 Hz' },
        ],
        help: 'The frequency of the mains.',
      }),
      ...flaw('bandwidth', 'Narrowness', 40, true, 'Lows and highs lost with every pass.'),
      ...flaw('saturation', 'Saturation', 20, true, 'The medium gives way to loud sounds with every pass.'),
    ]),
    ...duckParameters('repeats'),
    ...group('Output', [
      toggle({
        id: 'safety',
        name: 'Safety',
        default: false,
        help: 'A look-ahead limiter on what leaves the delay, for loops that might grow; adds 3 ms of latency. The dry sound alone is not limited.',
      }),
      number({
        id: 'safetyCeiling',
        name: 'Ceiling',
        needs: { id: 'safety', not: false },
        unit: 'dB',
        min: -24,
        max: 0,
        default: -1,
        scale: 'linear',
        help: 'The true peak that what leaves the delay does not pass.',
      }),
      mixParameter(30),
    ]),
  ],
  presets: DELAY_PRESETS,
});
