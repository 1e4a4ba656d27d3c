import { KinetikonError } from '../../errors';
import { makeSwell, presetSpace, swellTrackName, wordsOf } from '../../swells/makeSwell';
import { soundOf, soundPlace } from '../prints';
import type { Clip } from '../records/clips';
import type { SessionDocument } from '../records/document';
import { voiceName, type RecipeContext, type Recipe } from './recipe';

const SPACES = {
  hall: { name: 'a large hall', effect: 'reverb', preset: 'large-hall' },
  plate: { name: 'a plate', effect: 'reverb', preset: 'plate' },
  room: { name: 'a bright room', effect: 'reverb', preset: 'bright-small' },
  stone: { name: 'a nave of stone', effect: 'convolution', preset: 'sung-in-stone' },
} as const;

const spaceOf = (answers: RecipeContext['answers']) => SPACES[answers.space as keyof typeof SPACES];
const sectionName = (document: SessionDocument, id: string | undefined) => document.sections[id ?? '']?.name ?? '';

/** The first word on a track from a beat on: its clip, and where it is in that. */
function firstWord({ document, answers, onsets }: RecipeContext, fromBeat: number) {
  const beats = document.session.tempoBpm / 60;
  const beatOf = (clip: Clip, seconds: number) => clip.startBeat + soundPlace(clip, seconds) * beats;
  const found = Object.values(document.clips)
    .filter(({ trackId, mute }) => trackId === answers.voice && !mute)
    .flatMap((clip) =>
      wordsOf(clip, onsets[soundOf(document, clip.source) ?? ''] ?? []).map((word) => ({
        clip,
        word,
        beat: beatOf(clip, clip.reversed ? word.to : word.from),
      })),
    )
    // A word that comes in a little early is of the section that it begins.
    .filter(({ beat }) => beat >= fromBeat - 0.1)
    .sort((a, b) => a.beat - b.beat);
  return found[0];
}

export const swellIntoWord: Recipe = {
  id: 'swell-into-word',
  name: 'Swell into a word',
  outcome: 'A reversed space grows out of nothing and ends where a section’s first word begins.',
  synonyms: 'riser reverse reverb build transition',
  questions: [
    { id: 'voice', kind: 'track', text: 'Whose word?' },
    { id: 'section', kind: 'section', text: 'The first word of which section?' },
    {
      id: 'space',
      kind: 'choice',
      text: 'Growing out of what?',
      choices: Object.entries(SPACES).map(([id, { name }]) => ({ id, name })),
    },
  ],
  preview: (document, answers) => [
    `The first word of ${voiceName(document, answers)} in ${sectionName(document, answers.section)}, found by its beginning.`,
    `A swell of it out of ${spaceOf(answers)?.name}, on a track of its own, that lands there whatever is moved.`,
  ],
  sketch: (document, answers) => [
    { name: swellTrackName(document, answers.voice ?? ''), kind: 'track', effects: [], fedBy: ['print'] },
  ],
  build: (kitchen) => {
    const { document, answers, newId } = kitchen;
    const section = document.sections[answers.section!];
    const found = section && firstWord(kitchen, section.startBeat);
    if (!found) {
      throw new KinetikonError('session.command', `No word of ${voiceName(document, answers)} was found there.`, {
        kept: 'Nothing was changed.',
        next: 'Choose an earlier section, or another track.',
      });
    }
    const { effect, preset, name } = spaceOf(answers);
    const { clip, word } = found;
    const made = makeSwell(document, clip, word, presetSpace(effect, preset), newId);
    const seconds = soundPlace(clip, clip.reversed ? word.to : word.from).toFixed(2);
    return {
      showId: made.trackId,
      command: made.command,
      built: [
        `A swell out of ${name} into the word ${seconds} s into the clip “${clip.name}”.`,
        'It is linked: move the word, the tempo or its landing, and it is made anew.',
        'Choose its clip to set length, tone and width; drag the mark on the word to land elsewhere.',
      ],
    };
  },
};
