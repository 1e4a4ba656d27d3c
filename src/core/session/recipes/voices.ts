import { voiced } from '../../analysis/chordFinder';
import { KinetikonError } from '../../errors';
import { chordName } from '../../effects/chords';
import { keyByDegrees } from '../../effects/scaleKeys';
import { keyName } from '../../effects/pitchNames';
import type { ParameterValue } from '../../effects/values';
import type { Command } from '../commands';
import { beatsPerBar, channelOf } from '../records/queries';
import { TONICS } from '../records/session';
import type { Note, Point } from '../records/lanes';
import type { SessionDocument } from '../records/document';
import { scaleOf } from '../scales';
import { madeName, voiceName, wholeBars, type Answers, type RecipeContext, type Recipe } from './recipe';
import { returnFor } from './returnFor';

/** The key's tonic nearest over an octave's C. */
const tonicOf = ({ session }: SessionDocument, octave: number): number =>
  12 * (octave + 1) + TONICS.indexOf(session.keyTonic);

/** A small hall behind what a return makes. */
const SMALL_HALL = { size: 18, shape: 'hall', decay: 1.6, preDelay: 18, lowCut: 200, mix: 22 } as const;

const SINGERS = {
  thirdFifth: { name: 'a third and a fifth above', steps: [2, 4] },
  thirds: { name: 'a third above and a third below', steps: [2, -2] },
  octaves: { name: 'a third above and an octave below', steps: [2, -7] },
} as const;
const BESIDE = 'Beside';

/** Two voices in the key that sing with one. */
export const harmoniesInKey: Recipe = {
  id: 'harmonies',
  name: 'Harmonies in key',
  outcome: 'Two more voices sing with the first, in the key, a little late and never quite alike.',
  synonyms: 'harmonizer backing vocals',
  questions: [
    { id: 'voice', kind: 'track', text: 'Who sings?' },
    {
      id: 'singers',
      kind: 'choice',
      text: 'What do the others sing?',
      choices: Object.entries(SINGERS).map(([id, { name }]) => ({ id, name })),
    },
  ],
  preview: (document, answers) => [
    `Two voices of ${voiceName(document, answers)}'s own, ${SINGERS[answers.singers as keyof typeof SINGERS]?.name}, in ${document.session.keyTonic} ${document.session.keyMode}.`,
    'One at each side, 16 and 27 ms late, each loose by itself, in a small hall.',
  ],
  sketch: (document, answers) => [
    {
      name: madeName(BESIDE, document, answers),
      kind: 'return',
      effects: ['harmony', 'reverb'],
      fedBy: ['send'],
    },
  ],
  build: (kitchen) => {
    const { document, answers } = kitchen;
    const { name: what, steps } = SINGERS[answers.singers as keyof typeof SINGERS];
    const name = madeName(BESIDE, document, answers);
    const voices: Record<string, ParameterValue> = {};
    steps.forEach((degrees, n) => {
      const side = n === 0 ? -1 : 1;
      Object.assign(
        voices,
        Object.fromEntries(
          Object.entries({
            on: true,
            follow: 'degrees',
            degrees,
            pan: 45 * side,
            delay: n === 0 ? 16 : 27,
            humanize: n === 0 ? 30 : 45,
            formant: degrees < -4 ? -1 : 0,
          }).map(([id, value]) => [`voices.${n + 1}.${id}`, value]),
        ),
      );
    });
    const { returnId, command } = returnFor(
      kitchen,
      name,
      [
        ['harmony', { ...voices, mix: 100 }],
        ['reverb', { ...SMALL_HALL }],
      ],
      -5,
    );
    return {
      showId: returnId,
      command,
      built: [
        `The return “${name}” sings ${what} ${voiceName(document, answers)}, in the session's key.`,
        'Change the key in the listening strip and they follow; a lane of “Key” changes it within the song.',
        'Their level is that of the send; each voice has its own level, side and delay.',
      ],
    };
  },
};

const LAYERS = {
  chord: { name: 'the chord of the key, in a note lane' },
  found: { name: 'the chords of an instrument, found bar by bar' },
  follow: { name: 'its own notes, put into the key' },
} as const;
const UNDER = 'Under';
/** So many chords are told by name. */
const CHORDS_NAMED = 8;

/** A copy of the voice that is evened out, and what it steers: many stacked saws, wide. */
export const EVENED = { threshold: -30, ratio: 4, attack: 5, release: 120, autoMakeup: true } as const;
export const THICK = {
  carrierWave: 'stack',
  carrierVoices: 5,
  carrierDetune: 16,
  carrierWidth: 80,
  bands: 28,
  unvoiced: 40,
} as const;

const isFound = (answers: Answers) => answers.layer === 'found';

/** Keys that sound together for a while. */
interface Held {
  readonly keys: readonly number[];
  readonly startBeat: number;
  readonly lengthBeats: number;
}

/** The triad on the tonic of the key, as long as the session. */
function tonicChord(document: SessionDocument): Held[] {
  const keys = [0, 2, 4].map((degrees) => keyByDegrees(tonicOf(document, 3), degrees, scaleOf(document.session)));
  return [{ keys, startBeat: 0, lengthBeats: wholeBars(document) }];
}

/** Chords found bar by bar; equal neighbours are merged. */
function foundChords({ document, chords }: RecipeContext): Held[] {
  const perBar = beatsPerBar(document.session);
  const held: Held[] = [];
  chords.forEach((chord, bar) => {
    if (!chord) return;
    const now = { keys: voiced(chord, tonicOf(document, 3)), startBeat: bar * perBar, lengthBeats: perBar };
    const last = held.at(-1);
    const goesOn = last && last.startBeat + last.lengthBeats === now.startBeat && last.keys.join() === now.keys.join();
    if (goesOn) held[held.length - 1] = { ...last, lengthBeats: last.lengthBeats + perBar };
    else held.push(now);
  });
  return held;
}

/** The first chords by name. */
function namesOf(chords: readonly Held[]): string {
  const names = chords.slice(0, CHORDS_NAMED).map(({ keys }) => chordName(keys));
  return `${names.join(' ')}${chords.length > CHORDS_NAMED ? ` and ${chords.length - CHORDS_NAMED} more` : ''}`;
}

const notesOf = (chords: readonly Held[], ownerId: string, newId: () => string): Note[] =>
  chords.flatMap(({ keys, ...when }) => keys.map((key) => ({ id: newId(), ownerId, ...when, key, velocity: 100 })));

/** A layer that speaks the words of a lead under it. */
export const vocodedLayer: Recipe = {
  id: 'vocoded-layer',
  name: 'Vocoded layer under the lead',
  outcome: 'A thick layer that speaks the same words lies under the voice.',
  synonyms: 'robot voice',
  questions: [
    { id: 'voice', kind: 'track', text: 'Whose words?' },
    {
      id: 'layer',
      kind: 'choice',
      text: 'What does the layer play?',
      choices: Object.entries(LAYERS).map(([id, { name }]) => ({ id, name })),
    },
    { id: 'chords', kind: 'track', text: 'Who plays the chords?', when: { id: 'layer', is: 'found' } },
  ],
  chordsOf: (answers) => (isFound(answers) ? answers.chords! : null),
  preview: (document, answers) => [
    `A copy of ${voiceName(document, answers)} by a send steers a carrier that plays ${LAYERS[answers.layer as keyof typeof LAYERS]?.name}.`,
    'The copy is evened out before, and a small hall is behind; all of it 9 dB under the voice.',
  ],
  sketch: (document, answers) => [
    {
      name: madeName(UNDER, document, answers),
      kind: 'return',
      effects: ['compressor', 'vocoder', 'reverb'],
      fedBy: ['send'],
    },
  ],
  build: (kitchen) => {
    const { document, answers, newId } = kitchen;
    const name = madeName(UNDER, document, answers);
    const plays = answers.layer === 'follow' ? 'follow' : 'lane';
    const chords = isFound(answers) ? foundChords(kitchen) : plays === 'lane' ? tonicChord(document) : [];
    const instrument = channelOf(document, answers.chords ?? '')?.name ?? '';
    if (plays === 'lane' && chords.length === 0) {
      throw new KinetikonError('session.command', `${instrument} plays no chord of the key.`, {
        kept: 'Nothing was built.',
        next: 'Choose an instrument that plays chords, check the session’s key, or take the chord of the key.',
      });
    }
    const { returnId, command } = returnFor(
      kitchen,
      name,
      [
        ['compressor', EVENED],
        ['vocoder', { noteSource: plays, ...THICK, voiceLevel: -60 }],
        ['reverb', { ...SMALL_HALL }],
      ],
      0,
    );
    const notes = notesOf(chords, returnId, newId);
    const commands: Command[] = [command, { type: 'strip.set', id: returnId, values: { gainDb: -9 } }];
    if (notes.length > 0) commands.push({ type: 'note.add', notes });
    return {
      showId: returnId,
      command: { type: 'all', commands },
      built: [
        `The return “${name}” is fed by ${voiceName(document, answers)}: a compressor, a vocoder, a small hall.`,
        isFound(answers)
          ? `Its note lane holds the chords that ${instrument} plays: ${namesOf(chords)}.`
          : plays === 'lane'
            ? `Its note lane holds ${notes.map(({ key }) => keyName(key)).join(' ')} for now: write the song's chords there.`
            : 'Its carrier follows the voice, on the keys of the session.',
        'Its fader stands at -9 dB, under the voice; nothing of the voice itself is in it.',
      ],
    };
  },
};

const OWN_SOUNDS = { silent: 'is silent', kept: 'is heard as well' } as const;
const SPEAKS = 'Spoken by';

/** An instrument that speaks with a voice. */
export const speakingInstrument: Recipe = {
  id: 'speaking-instrument',
  name: 'Speaking instrument',
  outcome: 'An instrument speaks the words of a voice.',
  synonyms: 'talkbox robot voice',
  questions: [
    { id: 'voice', kind: 'track', text: 'Whose words?' },
    { id: 'instrument', kind: 'track', text: 'What speaks them?' },
    {
      id: 'own',
      kind: 'choice',
      text: 'And its own sound?',
      choices: Object.entries(OWN_SOUNDS).map(([id, name]) => ({ id, name })),
    },
  ],
  preview: (document, answers) => [
    `${channelOf(document, answers.instrument ?? '')?.name ?? 'The instrument'} speaks what ${voiceName(document, answers)} says, and ${OWN_SOUNDS[answers.own as keyof typeof OWN_SOUNDS]} by itself.`,
    'A return with a vocoder, fed by the voice before its fader, keyed by the instrument.',
  ],
  sketch: (document, answers) => [
    {
      name: madeName(SPEAKS, document, answers),
      kind: 'return',
      effects: ['vocoder'],
      fedBy: answers.instrument === answers.voice ? ['send', 'key'] : ['send'],
    },
  ],
  build: (kitchen) => {
    const { document, answers } = kitchen;
    const name = madeName(SPEAKS, document, answers);
    const instrument = channelOf(document, answers.instrument!)!;
    const { returnId, insertIds, command } = returnFor(
      kitchen,
      name,
      [['vocoder', { carrier: 'key', bands: 24, order: '6', unvoiced: 30, release: 60, level: 6 }]],
      0,
    );
    const commands: Command[] = [
      command,
      {
        type: 'insert.input',
        id: insertIds[0]!,
        slot: 'key',
        from: { stripId: instrument.id, tap: 'beforeFader' },
      },
    ];
    if (answers.own === 'silent' && instrument.id !== answers.voice) {
      commands.push({ type: 'strip.set', id: instrument.id, values: { mute: true } });
    }
    return {
      showId: returnId,
      command: { type: 'all', commands },
      built: [
        `The return “${name}” lets ${instrument.name} speak: the vocoder there listens to it before its fader.`,
        answers.own === 'silent'
          ? `${instrument.name} itself is muted; what it plays is heard through the words alone.`
          : `${instrument.name} is heard as before.`,
        'The vocoder says which bands the instrument has nothing in: a bright sound speaks plainest.',
      ],
    };
  },
};

const STEPS = {
  fourth: { name: 'a fourth down and back', semitones: -5 },
  fifth: { name: 'a fifth up and back', semitones: 7 },
  octave: { name: 'an octave down and back', semitones: -12 },
} as const;
const DRONE = 'Drone of';
/** Part of a section in which the drone goes from one note to the next. */
const WAY = 0.25;

/** A drone that speaks, and whose pitch moves from section to section by a lane. */
export const droneThatMoves: Recipe = {
  id: 'moving-drone',
  name: 'Speaking drone that moves',
  outcome: 'One long note speaks the words, and slides from section to section.',
  questions: [
    { id: 'voice', kind: 'track', text: 'Whose words?' },
    {
      id: 'way',
      kind: 'choice',
      text: 'How far does it slide?',
      choices: Object.entries(STEPS).map(([id, { name }]) => ({ id, name })),
    },
  ],
  preview: (document, answers) => [
    `A drone on the key's tonic speaks the words of ${voiceName(document, answers)}.`,
    `Its pitch slides ${STEPS[answers.way as keyof typeof STEPS]?.name}, section by section, by a lane.`,
  ],
  sketch: (document, answers) => [
    { name: madeName(DRONE, document, answers), kind: 'return', effects: ['vocoder', 'reverb'], fedBy: ['send'] },
  ],
  build: (kitchen) => {
    const { document, answers, newId } = kitchen;
    const { name: how, semitones } = STEPS[answers.way as keyof typeof STEPS];
    const name = madeName(DRONE, document, answers);
    const tonic = keyName(tonicOf(document, 2));
    const { returnId, insertIds, command } = returnFor(
      kitchen,
      name,
      [
        ['vocoder', { notes: tonic, carrierWave: 'stack', carrierVoices: 3, bands: 16, release: 180, level: -3 }],
        ['reverb', { ...SMALL_HALL, decay: 3 }],
      ],
      -6,
    );
    const sections = Object.values(document.sections).sort((a, b) => a.startBeat - b.startBeat);
    const length = wholeBars(document);
    // Without sections the session is taken in four parts.
    const starts =
      sections.length > 1 ? sections.map(({ startBeat }) => startBeat) : [0, 1, 2, 3].map((n) => (n * length) / 4);
    const points = starts.flatMap((beat, n): Point[] => {
      const at = (value: number, when: number): Point => ({ beat: when, value, shape: 'straight', bend: 0 });
      if (n === 0) return [at(0, beat)];
      const before = (n - 1) % 2 === 0 ? 0 : semitones;
      const slide = WAY * ((starts[n + 1] ?? length) - beat);
      return [at(before, beat), at(n % 2 === 0 ? 0 : semitones, beat + Math.max(0.25, slide))];
    });
    return {
      showId: returnId,
      command: {
        type: 'all',
        commands: [
          command,
          {
            type: 'lane.add',
            lane: {
              id: newId(),
              ownerId: insertIds[0]!,
              parameter: 'transpose',
              on: true,
              points,
              mirrorOf: null,
              mirrorAmount: 100,
            },
          },
        ],
      },
      built: [
        `The return “${name}” holds ${tonic} and speaks with it.`,
        `A lane of “Transpose” lets it slide ${how}, ${starts.length - 1} times.`,
        'A small hall behind it rings for three seconds.',
      ],
    };
  },
};
