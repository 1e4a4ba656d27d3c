import type { EffectId } from '../effects/registry';
import type { ParameterValue } from '../effects/spec';

/** A whole chain by purpose; the values name what differs from the defaults. */
export interface ChainPreset {
  readonly id: string;
  readonly name: string;
  readonly purpose: string;
  readonly effects: readonly { readonly effect: EffectId; readonly values: Readonly<Record<string, ParameterValue>> }[];
}

export const CHAIN_PRESETS: readonly ChainPreset[] = [
  {
    id: 'voice-ready',
    name: 'Clean, clear, even',
    purpose: 'On a voice',
    effects: [
      {
        effect: 'eq',
        values: {
          'bands.1.on': true,
          'bands.1.frequency': 90,
          'bands.2.on': true,
          'bands.2.frequency': 300,
          'bands.2.gain': -3,
        },
      },
      { effect: 'compressor', values: { threshold: -26, ratio: 3, attack: 8, release: 140, knee: 8, makeup: 4 } },
      { effect: 'deesser', values: { threshold: -28, amount: 6 } },
    ],
  },
  {
    id: 'voice-wire',
    name: 'Over a wire',
    purpose: 'On a voice',
    effects: [
      { effect: 'saturator', values: { drive: 18, curve: 'hard', lowCut: 400, highCut: 3600 } },
      {
        effect: 'eq',
        values: {
          'bands.1.on': true,
          'bands.1.frequency': 420,
          'bands.1.slope': '24',
          'bands.8.on': true,
          'bands.8.frequency': 3400,
          'bands.8.slope': '24',
        },
      },
      { effect: 'compressor', values: { threshold: -28, ratio: 8, attack: 1, release: 60, makeup: 6 } },
    ],
  },
  {
    id: 'pluck-wide',
    name: 'Swaying strings',
    purpose: 'On plucked strings',
    effects: [
      { effect: 'transient', values: { attack: 10, sustain: 15 } },
      { effect: 'autopan', values: { rate: '1bar', depth: 45 } },
      { effect: 'delay', values: { 'lines.1.timeLeft': '1/8d', 'lines.1.feedback': 35, mix: 22 } },
    ],
  },
  {
    id: 'drum-tight',
    name: 'Tight and forward',
    purpose: 'On drums',
    effects: [
      { effect: 'gate', values: { threshold: -34, range: -30, attack: 0.3, hold: 60, release: 90 } },
      { effect: 'transient', values: { attack: 15 } },
      { effect: 'compressor', values: { threshold: -20, ratio: 4, attack: 20, release: 90, makeup: 2 } },
    ],
  },
  {
    id: 'return-clean-echo',
    name: 'Repeats without lows and esses',
    purpose: 'On a return',
    effects: [
      { effect: 'deesser', values: { threshold: -40, amount: 12, width: 1.6 } },
      { effect: 'delay', values: { 'lines.1.timeLeft': '1/4', 'lines.1.feedback': 45, mix: 100 } },
      {
        effect: 'eq',
        values: { 'bands.1.on': true, 'bands.1.frequency': 220, 'bands.8.on': true, 'bands.8.frequency': 6500 },
      },
    ],
  },
  {
    id: 'return-worn-echo',
    name: 'Dark, worn repeats',
    purpose: 'On a return',
    effects: [
      {
        effect: 'delay',
        values: {
          'lines.1.timeLeft': '1/8d',
          'lines.1.feedback': 55,
          'lines.1.modDepth': 0.4,
          'lines.1.modRate': 0.6,
          mix: 100,
        },
      },
      { effect: 'saturator', values: { drive: 10, curve: 'tape', highCut: 3500 } },
      { effect: 'autopan', values: { rate: '2bar', depth: 40 } },
    ],
  },
  {
    id: 'main-hold',
    name: 'Hold together, never over',
    purpose: 'On the main output',
    effects: [
      {
        effect: 'compressor',
        values: { threshold: -16, ratio: 2, attack: 30, release: 250, knee: 10, detector: 'rms' },
      },
      { effect: 'limiter', values: { ceiling: -1 } },
    ],
  },
];
