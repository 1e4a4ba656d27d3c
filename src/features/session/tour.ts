import type { DriveStep } from 'driver.js';
import type { Studio } from './studio';

const step = (element: string, title: string, description: string): DriveStep => ({
  element,
  popover: { title, description },
});

const STEPS: readonly DriveStep[] = [
  step(
    '[aria-label="Cast"]',
    'The cast',
    'Tracks play sounds, returns hold effects that several tracks share, and all of it comes out of Main. S hears one alone, M leaves one out.',
  ),
  step(
    '.timeline',
    'The timeline',
    'Sounds lie here along bars and beats. Drop files anywhere; drag clips and their edges; a drag along the ruler marks the loop.',
  ),
  step(
    '.chain',
    'The signal path',
    'What is chosen in the cast, from top to bottom: its effects in order, what it sends to returns, its fader and pan.',
  ),
  step(
    '.views',
    'Four views',
    'Timeline, how everything is connected, one effect large, and settings compared at equal loudness.',
  ),
  step(
    '.listening',
    'Listening',
    'Play, tempo and key, the loop, and what comes out. What is heard here is what a bounce writes.',
  ),
  step(
    '.head-tools',
    'More',
    'Recipes build whole routings, Bounce writes the mix. Ctrl+K finds everything, ? shows all keys.',
  ),
];

/** Shows the parts of the screen one after the other; it can be left at any time. */
export async function startTour(studio: Studio): Promise<void> {
  studio.set({ view: 'timeline', drawer: null });
  const tour = await import('driver.js').catch((error: unknown) => studio.messages.report(error));
  if (!tour) return;
  const { driver } = tour;
  driver({
    steps: [...STEPS],
    animate: false,
    showProgress: true,
    progressText: '{{current}} of {{total}}',
    nextBtnText: 'Next',
    prevBtnText: 'Back',
    doneBtnText: 'Done',
    popoverClass: 'tour',
    overlayOpacity: 0.35,
  }).drive();
}
