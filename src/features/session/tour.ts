import type { Driver, DriveStep } from 'driver.js';
import { GAIN_PARAMETER } from '@/core/session/stripParameters';
import { placed } from '@/core/session/stagePlacement';
import { listDemoSounds } from '@/runtime/client/api';
import { putOnStage } from './staging';
import type { Studio } from './studio';

/** The sound that the tour brings in, and the level that it brings it down to. */
const SOUND = 'lamp-keeper';
const LOWERED_DB = -6;
/** Longest wait for a part of the screen to appear, in ms. */
const PATIENCE_MS = 5000;

interface Stop {
  /** The part of the screen that it is about. */
  readonly element: string;
  readonly title: string;
  readonly text: string;
  /** Action of "Next" in a session that was empty, and its announcement. */
  readonly act?: (studio: Studio) => Promise<void> | void;
  readonly next?: string;
  /** What has to be shown before it, in any session. */
  readonly show?: (studio: Studio) => void;
}

/** The track of the tour's sound. */
const trackOf = ({ state }: Studio) => state.document.tracks[state.stripId];

const STOPS: readonly Stop[] = [
  {
    element: '.timeline',
    title: 'The timeline',
    text: 'Sounds lie here along bars and beats. Drop files anywhere; drag clips and their edges; a drag along the ruler marks the loop.',
    show: (studio) => studio.set({ view: 'timeline', drawer: null }),
    next: 'Next brings one of the demo’s sounds in.',
    act: async (studio) => {
      const sound = (await listDemoSounds()).find(({ name }) => name.startsWith(SOUND));
      if (sound) studio.imports.placeSound(sound, 0, null);
    },
  },
  {
    element: '[aria-label="Cast"]',
    title: 'The cast',
    text: 'Tracks play sounds, returns hold effects that several tracks share, and all of it comes out of Main. S hears one alone, M leaves one out.',
  },
  {
    element: '.listening',
    title: 'Listening',
    text: 'Play, tempo and key, the loop, and what comes out. What is heard here is what a bounce writes.',
    next: 'Next plays it.',
    act: (studio) => studio.transport.play(),
  },
  {
    element: '.chain',
    title: 'The signal path',
    text: 'What is chosen in the cast, from top to bottom: its effects in order, what it sends to returns, its fader. A ruler is dragged, typed into or moved by the arrow keys.',
    next: `Next lowers its level to ${LOWERED_DB} dB.`,
    act: (studio) => {
      const track = trackOf(studio);
      if (track) studio.controls.turnOnce(track.id, GAIN_PARAMETER, LOWERED_DB, `${track.name}: Level`);
    },
  },
  {
    element: '.chain .ruler-lane',
    title: 'Animate it',
    text: 'The curve beside a value draws it over time in a lane. The waves, beside values of effects, let a modulator move it.',
  },
  {
    element: '.views',
    title: 'Five views',
    text: 'Timeline; Stage, where sounds stand around you; Routing, how everything is connected; Effect, one effect large; and Compare, settings at equal loudness.',
    next: 'Next puts the sound on the stage.',
    act: (studio) => {
      const track = trackOf(studio);
      if (track && track.placeId === null) putOnStage(studio, [track]);
    },
  },
  {
    element: '.plan',
    title: 'The stage',
    text: 'You are in the middle, ahead is up. Drag a sound to where it is to be heard, or let it move.',
    show: (studio) => studio.set({ view: 'stage' }),
  },
  {
    element: '.head-tools',
    title: 'More',
    text: 'Recipes build whole routings, Bounce writes the mix, Undo takes back step by step. Ctrl+K finds everything, ? shows all keys.',
  },
];

/**
 * Shows the parts of the screen one after the other; it can be left at any time. In an empty session it brings in a sound,
 * plays it, moves a ruler and puts it on the stage; another session it leaves as it is.
 */
export async function startTour(studio: Studio): Promise<void> {
  const { document: session } = studio.state;
  const isEmpty = Object.keys(session.clips).length === 0 && placed(session).length === 0;
  STOPS[0]!.show!(studio);
  const loaded = await import('driver.js').catch((error: unknown) => studio.messages.report(error));
  if (!loaded) return;
  let isBusy = false;
  const goOn = async (stop: Stop, at: number, tour: Driver) => {
    if (isBusy) return;
    isBusy = true;
    try {
      if (isEmpty) await stop.act?.(studio);
    } catch (error) {
      studio.messages.report(error);
    }
    isBusy = false;
    STOPS[at + 1]?.show?.(studio);
    if (tour.isActive()) tour.moveNext();
  };
  const steps = STOPS.map((stop, at): DriveStep => ({
    element: stop.element,
    popover: {
      title: stop.title,
      description: isEmpty && stop.next ? `${stop.text} <b>${stop.next}</b>` : stop.text,
      onNextClick: (_element, _step, { driver }) => void goOn(stop, at, driver),
      onPrevClick: (_element, _step, { driver }) => {
        STOPS[at - 1]?.show?.(studio);
        driver.movePrevious();
      },
    },
  }));
  loaded
    .driver({
      steps,
      animate: false,
      waitForElement: PATIENCE_MS,
      showProgress: true,
      progressText: '{{current}} of {{total}}',
      nextBtnText: 'Next',
      prevBtnText: 'Back',
      doneBtnText: 'Done',
      popoverClass: 'tour',
      overlayOpacity: 0.35,
    })
    .drive();
}
