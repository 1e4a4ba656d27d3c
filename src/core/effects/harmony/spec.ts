import {
  choice,
  defineEffect,
  group,
  mixParameter,
  number,
  toggle,
  type EffectSpec,
  type ListSpec,
  type ParameterValues,
} from '../spec';
import type { MeterSpec } from '../meters';

export const MOST_HARMONIES = 6;
export const LONGEST_DELAY_MS = 200;
/** Lowest pitch that is looked for, at its lowest: what the latency of the voice method is made for. */
export const LOWEST_HZ = 60;

/** The pitch of the source and of each voice, NaN where there is none. */
const PITCH: MeterSpec = { kind: 'pitch', name: 'Pitch of source and voices', count: 1 + MOST_HARMONIES };

export const KEY_CHOICES = ['session', 'C', 'C#', 'D', 'Eb', 'E', 'F', 'F#', 'G', 'Ab', 'A', 'Bb', 'B'] as const;
export const SCALE_CHOICES = [
  ['session', 'As the session'],
  ['major', 'Major'],
  ['minor', 'Minor'],
  ['dorian', 'Dorian'],
  ['phrygian', 'Phrygian'],
  ['lydian', 'Lydian'],
  ['mixolydian', 'Mixolydian'],
  ['locrian', 'Locrian'],
  ['chromatic', 'Every key'],
] as const;

const used = { id: 'on', not: false } as const;

export const VOICES: ListSpec = {
  id: 'voices',
  itemName: 'Voice',
  count: MOST_HARMONIES,
  switchedBy: 'on',
  itemDefaults: [
    { on: true },
    { degrees: 4, interval: 7, pan: 35 },
    { degrees: -7, interval: -12, pan: 0 },
    { degrees: 5, interval: 12, pan: -60 },
    { degrees: -3, interval: -5, pan: 60 },
    { degrees: 7, interval: 12, pan: 20 },
  ],
  parameters: [
    toggle({ id: 'on', name: 'In use', group: 'Voice', default: false, help: 'Whether this voice sings.' }),
    choice({
      id: 'follow',
      name: 'Follows',
      group: 'Voice',
      needs: used,
      default: 'degrees',
      choices: [
        { id: 'interval', name: 'Interval' },
        { id: 'degrees', name: 'Scale steps' },
        { id: 'notes', name: 'Notes' },
      ],
      help: 'An even distance from the source, steps of the key from it, or notes of a lane or played by hand: the lowest for the first voice that sings notes, and so on.',
    }),
    number({
      id: 'interval',
      name: 'Interval',
      group: 'Voice',
      needs: { id: 'follow', oneOf: ['interval'] },
      unit: 'semitones',
      min: -24,
      max: 24,
      default: 4,
      scale: 'linear',
      help: 'How far above or below the source; parts are cents.',
    }),
    number({
      id: 'degrees',
      name: 'Steps',
      group: 'Voice',
      needs: { id: 'follow', oneOf: ['degrees'] },
      unit: '',
      min: -14,
      max: 14,
      default: 2,
      scale: 'linear',
      help: 'Steps of the key above or below the source: 2 is a third, 4 a fifth, -7 an octave below.',
    }),
    number({
      id: 'formant',
      name: 'Formants',
      group: 'Voice',
      needs: used,
      unit: 'semitones',
      min: -12,
      max: 12,
      default: 0,
      scale: 'linear',
      help: 'At 0 the voice keeps its mouth whatever its pitch; above it gets smaller, below larger.',
    }),
    number({
      id: 'glide',
      name: 'Glide',
      group: 'Voice',
      needs: used,
      unit: 'ms',
      min: 0,
      max: 1000,
      default: 40,
      scale: 'fine',
      help: 'How long it takes from one note to the next.',
    }),
    number({
      id: 'humanize',
      name: 'Human drift',
      group: 'Voice',
      needs: used,
      unit: '%',
      min: 0,
      max: 100,
      default: 20,
      scale: 'linear',
      help: 'How far it drifts by itself, up to 25 cents and 25 ms.',
    }),
    number({
      id: 'delay',
      name: 'Delay',
      group: 'Voice',
      needs: used,
      unit: 'ms',
      min: 0,
      max: LONGEST_DELAY_MS,
      default: 0,
      scale: 'fine',
      help: 'How late it is behind the source.',
    }),
    number({
      id: 'level',
      name: 'Level',
      group: 'Voice',
      needs: used,
      unit: 'dB',
      min: -60,
      max: 6,
      default: -3,
      scale: 'level',
      silentAtMin: true,
      help: 'Of this voice.',
    }),
    number({
      id: 'pan',
      name: 'Pan',
      group: 'Voice',
      needs: used,
      unit: '%',
      min: -100,
      max: 100,
      default: -35,
      scale: 'linear',
      sides: true,
      help: 'Where it stands from left to right.',
    }),
  ],
};

/** Values of voices, from the first on; the others are out of use. */
const sung = (voices: readonly ParameterValues[], more: ParameterValues = {}): ParameterValues => ({
  ...Object.fromEntries(
    Array.from({ length: MOST_HARMONIES }, (_, n) =>
      Object.entries({ on: n < voices.length, ...voices[n] }).map(
        ([id, value]) => [`voices.${n + 1}.${id}`, value] as const,
      ),
    ).flat(),
  ),
  ...more,
});

export const harmonySpec: EffectSpec = defineEffect({
  id: 'harmony',
  name: 'Harmonies',
  family: 'pitch',
  purpose: 'Lets up to six voices sing with one: in the key, at an interval, or by notes.',
  synonyms: 'harmonizer harmoniser pitch shifter shifting autotune tuning formant octaver choir',
  picture: 'response',
  meters: [PITCH],
  playsNotes: true,
  usesNotes: (values) =>
    Array.from({ length: MOST_HARMONIES }, (_, n) => `voices.${n + 1}.`).some(
      (voice) => values[`${voice}on`] === true && values[`${voice}follow`] === 'notes',
    ),
  main: ['voices.1.degrees', 'voices.1.level', 'snap', 'mix'],
  exaggerates: ['voices.*.humanize'],
  lists: [VOICES],
  parameters: [
    ...group('Key', [
      choice({
        id: 'key',
        name: 'Key',
        default: 'session',
        choices: KEY_CHOICES.map((id) => ({ id, name: id === 'session' ? 'As the session' : id })),
        help: 'The tonic that steps count from; a lane changes it where the song does.',
      }),
      choice({
        id: 'scale',
        name: 'Scale',
        default: 'session',
        choices: SCALE_CHOICES.map(([id, name]) => ({ id, name })),
        help: 'The steps that there are over the tonic.',
      }),
    ]),
    ...group('Source', [
      choice({
        id: 'method',
        name: 'Source',
        default: 'voice',
        choices: [
          { id: 'voice', name: 'Single voice' },
          { id: 'polyphonic', name: 'Chords' },
        ],
        help: 'One voice is taken apart by its periods; chords by their spectrum, which takes longer.',
      }),
      number({
        id: 'detectLow',
        name: 'Pitch from',
        unit: 'Hz',
        min: LOWEST_HZ,
        max: 500,
        default: 75,
        scale: 'log',
        help: 'The lowest pitch that the source may have.',
      }),
      number({
        id: 'detectHigh',
        name: 'Pitch to',
        unit: 'Hz',
        min: 200,
        max: 1500,
        default: 1000,
        scale: 'log',
        help: 'The highest pitch that the source may have.',
      }),
      toggle({
        id: 'consonants',
        name: 'Consonants',
        default: true,
        help: 'On, voices have the source’s consonants as they are; off, they leave them out.',
      }),
      number({
        id: 'snap',
        name: 'Tune to key',
        unit: '%',
        min: 0,
        max: 100,
        default: 0,
        scale: 'linear',
        help: 'How far the source, and the voices with it, are pulled to the notes of the key.',
      }),
      number({
        id: 'snapSpeed',
        name: 'Tune speed',
        needs: { id: 'snap', not: 0 },
        unit: 'ms',
        min: 0,
        max: 500,
        default: 60,
        scale: 'fine',
        help: 'Time to reach the note: 0 sounds rigid; from 80 ms on, vibrato stays.',
      }),
    ]),
    ...group('Level', [
      number({
        id: 'dry',
        name: 'Source',
        unit: 'dB',
        min: -60,
        max: 6,
        default: -60,
        scale: 'level',
        silentAtMin: true,
        help: 'The source among the voices, as tuned; nothing at its lowest value.',
      }),
      mixParameter(50),
    ]),
  ],
  refuse: (figure) =>
    figure('detectLow') < figure('detectHigh')
      ? null
      : `detectLow must lie under detectHigh, ${figure('detectHigh')} Hz, not at ${figure('detectLow')}.`,
  completes: (before, change) => {
    const begins = change.snap !== undefined && Number(change.snap) > 0 && Number(before.snap ?? 0) === 0;
    const silent = Number(before.dry ?? -60) <= -60;
    return begins && silent && change.dry === undefined ? { ...change, dry: 0, mix: 100 } : change;
  },
  presets: [
    {
      id: 'third-above',
      name: 'A third above',
      purpose: 'In the key',
      help: 'One voice that knows the key: major where the key is, minor where it is not.',
      values: sung([{ degrees: 2, pan: -20, delay: 12 }], { mix: 42 }),
    },
    {
      id: 'third-and-fifth',
      name: 'Third and fifth',
      purpose: 'In the key',
      help: 'Two voices, one at each side, never quite with the first.',
      values: sung(
        [
          { degrees: 2, pan: -45, delay: 14 },
          { degrees: 4, pan: 45, delay: 22, humanize: 35 },
        ],
        { mix: 45 },
      ),
    },
    {
      id: 'octave-below',
      name: 'An octave below',
      purpose: 'At an interval',
      values: sung([{ follow: 'interval', interval: -12, pan: 0, formant: -1, level: -2 }], { mix: 42 }),
    },
    {
      id: 'tight-unison',
      name: 'Tight unison',
      purpose: 'At an interval',
      values: sung(
        [
          { follow: 'interval', interval: 0.09, pan: -70, delay: 11, humanize: 45 },
          { follow: 'interval', interval: -0.09, pan: 70, delay: 17, humanize: 45 },
          { follow: 'interval', interval: 0.04, pan: -30, delay: 24, humanize: 60, level: -6 },
          { follow: 'interval', interval: -0.05, pan: 30, delay: 29, humanize: 60, level: -6 },
        ],
        { mix: 48 },
      ),
    },
    {
      id: 'wide-choir',
      name: 'Wide choir',
      purpose: 'In the key',
      values: sung(
        [
          { degrees: 2, pan: -80, delay: 25, humanize: 70, level: -5 },
          { degrees: 4, pan: 80, delay: 32, humanize: 70, level: -5 },
          { degrees: 7, pan: -40, delay: 18, humanize: 60, level: -9 },
          { degrees: -3, pan: 45, delay: 28, humanize: 70, level: -6 },
          { degrees: -5, pan: -20, delay: 38, humanize: 80, level: -7, formant: -1 },
          { degrees: -7, pan: 15, delay: 22, humanize: 60, level: -5, formant: -2 },
        ],
        { mix: 55 },
      ),
    },
    {
      id: 'whisper-layer',
      name: 'Smaller mouths behind',
      purpose: 'Special effects',
      values: sung(
        [
          { follow: 'interval', interval: 12, formant: 5, pan: -60, delay: 60, level: -10, humanize: 80 },
          { follow: 'interval', interval: 12, formant: 7, pan: 60, delay: 95, level: -12, humanize: 80 },
        ],
        { mix: 45 },
      ),
    },
    {
      id: 'drone-under',
      name: 'Drone under it',
      purpose: 'By notes',
      values: sung([{ follow: 'notes', formant: -2, pan: 0, glide: 200, level: 0 }], { mix: 45 }),
    },
    {
      id: 'parallel-fourths',
      name: 'Parallel fourths',
      purpose: 'At an interval',
      values: sung(
        [
          { follow: 'interval', interval: 5, pan: -30, delay: 8 },
          { follow: 'interval', interval: -7, pan: 30, delay: 16 },
        ],
        { mix: 45 },
      ),
    },
  ],
});
