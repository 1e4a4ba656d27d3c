/** The music of the demo: 84 beats a minute, 3/4, D dorian. Positions and lengths in beats. */
export const TEMPO = 84;
export const BEATS_PER_BAR = 3;
export const BARS = 18;
export const RATE = 48000;
export const SECONDS_PER_BEAT = 60 / TEMPO;

export interface Note {
  readonly beat: number;
  readonly beats: number;
  /** MIDI number, 69 is 440 Hz. */
  readonly pitch: number;
  readonly level: number;
}

const CLASSES: Record<string, number> = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 };

/** `D4` as a MIDI number. */
export const pitchOf = (name: string): number => CLASSES[name[0]!]! + 12 * (Number(name[1]) + 1);

/** The chord of each bar, root first. */
export const CHORDS: readonly (readonly string[])[] = [
  ['D3', 'A3', 'D4', 'F4'],
  ['G2', 'D3', 'B3', 'D4'],
  ['D3', 'A3', 'D4', 'F4'],
  ['F2', 'C3', 'A3', 'C4'],
  ['C3', 'G3', 'C4', 'E4'],
  ['A2', 'E3', 'A3', 'C4'],
  ['F2', 'C3', 'A3', 'F4'],
  ['C3', 'G3', 'C4', 'E4'],
  ['G2', 'D3', 'B3', 'D4'],
  ['D3', 'A3', 'D4', 'F4'],
  ['G2', 'D3', 'B3', 'G4'],
  ['A2', 'E3', 'A3', 'E4'],
  ['D3', 'A3', 'D4', 'F4'],
  ['G2', 'D3', 'B3', 'D4'],
  ['F2', 'C3', 'A3', 'F4'],
  ['C3', 'G3', 'C4', 'E4'],
  ['G2', 'D3', 'B3', 'D4'],
  ['D3', 'A3', 'D4', 'A4'],
];

/** Words of the lamp keeper. */
export const SONG: readonly (readonly [word: string, beat: number, beats: number, pitch: string])[] = [
  ['low', 3, 1, 'B3'],
  ['tide', 4, 1.9, 'D4'],
  ['slow', 6, 1, 'A3'],
  ['tide', 7, 1.8, 'F3'],
  ['lamp', 9, 1, 'A3'],
  ['on', 10, 0.5, 'C4'],
  ['the', 10.5, 0.5, 'A3'],
  ['sea', 11, 3.2, 'G3'],
  ['leave', 19, 1, 'C4'],
  ['me', 20, 1, 'A3'],
  ['a', 21, 0.5, 'G3'],
  ['light', 21.5, 2.1, 'E4'],
  ['and', 24.5, 0.5, 'D4'],
  ['wait', 25, 1.5, 'B3'],
  ['for', 26.5, 0.5, 'A3'],
  ['me', 27, 2.8, 'A3'],
  ['slow', 36, 1, 'A3'],
  ['tide', 37, 1.8, 'D4'],
  ['high', 39, 1, 'D4'],
  ['tide', 40, 1.8, 'B3'],
  ['turn', 42, 1, 'A3'],
  ['back', 43, 1, 'C4'],
  ['to', 44.5, 0.5, 'A3'],
  ['the', 45, 0.5, 'G3'],
  ['light', 45.5, 2.1, 'E4'],
  ['the', 48, 0.5, 'D4'],
  ['quay', 48.5, 1.8, 'B3'],
  ['home', 51, 2.8, 'A3'],
];

/** Words of the announcer, and their times. */
export const NOTICE = { text: 'Harbour notice. The last boat leaves, at low water.', beat: 30 };

/** One bar of the harp: chord tone and place within the bar. */
const FIGURE: readonly (readonly [tone: number, place: number, level: number])[] = [
  [0, 0, 0.9],
  [1, 0.5, 0.5],
  [2, 1, 0.65],
  [3, 1.5, 0.55],
  [2, 2, 0.6],
  [1, 2.5, 0.45],
];

export const HARP: readonly Note[] = CHORDS.flatMap((chord, bar) =>
  FIGURE.filter(([, place]) => bar < BARS - 1 || place === 0).map(([tone, place, level], step) => ({
    beat: bar * BEATS_PER_BAR + place + 0.012 * ((step * 7 + bar * 3) % 5),
    beats: 2.5,
    pitch: pitchOf(chord[tone]!) + (bar >= 12 && tone === 3 ? 12 : 0),
    level: level * (0.8 + 0.2 * ((step * 5 + bar) % 3) * 0.5) * (bar < 6 ? 0.85 : 1),
  })),
);

export const ORGAN: readonly Note[] = CHORDS.flatMap((chord, bar) =>
  chord.slice(1).map((name) => ({
    beat: bar * BEATS_PER_BAR,
    beats: BEATS_PER_BAR + 0.25,
    pitch: pitchOf(name),
    level: bar < 2 ? 0.5 : bar < 6 ? 0.7 : 1,
  })),
);

/** The pedal of the tide: the root of every chord, low, from the second bar on; notes that stay are held. */
export const PEDAL: readonly Note[] = CHORDS.reduce<Note[]>((notes, [root], bar) => {
  const pitch = pitchOf(`${root![0]}2`);
  const held = notes.at(-1);
  if (bar === 0) return notes;
  if (held?.pitch === pitch) {
    return [...notes.slice(0, -1), { ...held, beats: held.beats + BEATS_PER_BAR }];
  }
  const level = bar < 6 ? 0.7 : bar < 12 ? 0.85 : 1;
  return [...notes, { beat: bar * BEATS_PER_BAR, beats: BEATS_PER_BAR, pitch, level }];
}, []);

/** The saw answers the voice where it rests. */
export const SAW: readonly Note[] = [
  ['A4', 14.5, 1.4],
  ['C5', 16, 2.6],
  ['D5', 30, 2],
  ['B4', 32, 1.4],
  ['E5', 33.5, 2.2],
  ['A4', 39, 2.8],
  ['C5', 42, 2.6],
  ['G4', 45, 2.6],
  ['D5', 48, 2.6],
  ['A4', 51, 3],
].map(([name, beat, beats]) => ({
  pitch: pitchOf(name as string),
  beat: beat as number,
  beats: beats as number,
  level: 1,
}));

/** Tin: a low plate on one, a high one on two and three, a roll into each section. */
export const TIN: readonly Note[] = Array.from({ length: BARS - 5 }, (_, index) => index + 4).flatMap((bar) => {
  const start = bar * BEATS_PER_BAR;
  const beats = [
    [0, 60, 0.9],
    [1, 74, 0.4],
    [1.5, 79, 0.22],
    [2, 74, 0.5],
    [2.5, 79, 0.3],
  ];
  const roll = bar % 6 === 5 ? [2.25, 2.75].map((place) => [place, 79, 0.35]) : [];
  return [...beats, ...roll].map(([place, pitch, level]) => ({
    beat: start + place!,
    beats: 0.5,
    pitch: pitch!,
    level: level! * (0.85 + 0.15 * ((bar * 3) % 4) * 0.33),
  }));
});

export const BELL: readonly Note[] = [0, 18, 36, 51].map((beat) => ({
  beat,
  beats: 12,
  pitch: pitchOf('D2'),
  level: beat === 51 ? 0.7 : 1,
}));

export const SECTIONS = [
  { id: 'ebb', name: 'ebb', startBeat: 0, lengthBeats: 18 },
  { id: 'slack', name: 'slack', startBeat: 18, lengthBeats: 18 },
  { id: 'flood', name: 'flood', startBeat: 36, lengthBeats: 18 },
];
