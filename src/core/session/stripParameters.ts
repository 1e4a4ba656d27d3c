import { number, toggle, type NumberParameter, type ToggleParameter } from '../effects/spec';

/** Fader and pan described as the parameters of effects are, so that the same ruler sets them. */
export const GAIN_PARAMETER: NumberParameter = number({
  id: 'gainDb',
  name: 'Level',
  unit: 'dB',
  min: -100,
  max: 12,
  default: 0,
  scale: 'level',
  silentAtMin: true,
  help: 'How loud this track is in the mix.',
});

export const PAN_PARAMETER: NumberParameter = number({
  id: 'pan',
  name: 'Pan',
  unit: '%',
  min: -100,
  max: 100,
  default: 0,
  scale: 'linear',
  sides: true,
  help: 'Leans the sound to a side; the centre is 0 dB.',
});

export const CLIP_GAIN_PARAMETER: NumberParameter = number({
  id: 'gainDb',
  name: 'Clip level',
  unit: 'dB',
  min: -100,
  max: 24,
  default: 0,
  scale: 'level',
  silentAtMin: true,
  help: 'How loud this clip is before the effects.',
});

export const SEND_GAIN_PARAMETER: NumberParameter = number({
  id: 'gainDb',
  name: 'Send',
  unit: 'dB',
  min: -100,
  max: 12,
  default: -6,
  scale: 'level',
  silentAtMin: true,
  help: 'How much of this sound goes into the return.',
});

export const MUTE_PARAMETER: ToggleParameter = toggle({
  id: 'mute',
  name: 'Mute',
  default: false,
  help: 'Silences it.',
});
