/** Parts of a voice of the instrument. */
export const WAVES = ['saw', 'pulse', 'stack', 'fm', 'noise'] as const;
export type Wave = (typeof WAVES)[number];

const WAVE_NAMES: Readonly<Record<Wave, string>> = {
  saw: 'Saw',
  pulse: 'Pulse',
  stack: 'Stacked saws',
  fm: 'FM',
  noise: 'Noise',
};

/** As a parameter offers them. */
export const WAVE_CHOICES = WAVES.map((id) => ({ id, name: WAVE_NAMES[id] }));
export const VOICE_FILTERS = ['off', 'lowPass', 'highPass', 'bandPass'] as const;
export type VoiceFilter = (typeof VOICE_FILTERS)[number];

/** Seconds, and a level from 0 to 1. */
export interface Envelope {
  attack: number;
  decay: number;
  sustain: number;
  release: number;
}

/** Shared settings of all voices, which read them as they play. */
export interface Tone {
  wave: Wave;
  /** Part of a cycle. */
  pulseWidth: number;
  /** Copies of a wave, 1 to 7, up to so many cents to either side of the key, and so far apart, 0 to 1. */
  unison: number;
  detuneCents: number;
  spread: number;
  /** Frequency of the modulator over that of the carrier, and how far it moves the phase, in cycles. */
  fmRatio: number;
  fmDepth: number;
  /** Noise beside the wave, as a factor. */
  noise: number;
  /** Semitones by which all keys sound higher. */
  shift: number;
  vibratoCents: number;
  vibratoHz: number;
  /** Seconds from key to key. */
  glide: number;
  filter: VoiceFilter;
  cutoffHz: number;
  resonance: number;
  /** Octaves of the cutoff for each octave of the key from C4 up. */
  tracking: number;
  /** Octaves that the envelope moves the cutoff by. */
  filterDepth: number;
  filterEnvelope: Envelope;
  envelope: Envelope;
}

export const MOST_UNISON = 7;
