import { EFFECTS } from '@/core/effects/registry';
import { RECIPES } from '@/core/session/recipes/recipes';
import { isFound } from './isFound';

it('finds what has all words of a search, in any order and case', () => {
  expect(isFound(' Wet ROOM', 'A room', 'all wet')).toBe(true);
  expect(isFound('wet dry', 'A room', undefined, 'all wet')).toBe(false);
  expect(isFound('', 'anything')).toBe(true);
});

it.each([
  ['tremolo', 'autopan'],
  ['slapback', 'delay'],
  ['widener', 'midside'],
  ['doubling', 'doubler'],
  ['plate', 'reverb'],
  ['ducking', 'compressor'],
  ['throw', 'delay'],
  ['robot voice', 'vocoder'],
  ['pitch shifter', 'harmony'],
  ['distortion', 'saturator'],
])('knows the trade’s other word: %s finds %s', (word, effect) => {
  const found = EFFECTS.filter(({ name, purpose, synonyms }) => isFound(word, name, purpose, synonyms));
  expect(found.map(({ id }) => id)).toContain(effect);
});

it.each([
  ['riser', 'swell-into-word'],
  ['ducking', 'sinking-echoes'],
  ['throw', 'last-word-throws'],
  ['robot voice', 'vocoded-layer'],
  ['widener', 'depth-from-mono'],
])('and finds recipes by it: %s finds %s', (word, recipe) => {
  const found = RECIPES.filter(({ name, outcome, synonyms }) => isFound(word, name, outcome, synonyms));
  expect(found.map(({ id }) => id)).toContain(recipe);
});
