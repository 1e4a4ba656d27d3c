import { MAIN_ID, type Strip, type Track, type Return, type Send } from './strips';
import type { Modulator } from './modulators';
import type { Clip } from './clips';
import { DOCUMENT_VERSION, type SessionDocument } from './document';

/** A clip as it begins: its sound as it is. */
export function newClip(one: Pick<Clip, 'id' | 'trackId' | 'source' | 'name' | 'startBeat' | 'lengthSeconds'>): Clip {
  return {
    ...one,
    offsetSeconds: 0,
    gainDb: 0,
    fadeInSeconds: 0,
    fadeInShape: 'smooth',
    fadeOutSeconds: 0,
    fadeOutShape: 'smooth',
    reversed: false,
    mute: false,
  };
}

/** An empty session. */
export function newDocument(sessionName: string): SessionDocument {
  return {
    version: DOCUMENT_VERSION,
    session: {
      name: sessionName,
      tempoBpm: 100,
      metreBeats: 4,
      metreUnit: 4,
      keyTonic: 'C',
      keyMode: 'major',
      sampleRateHz: 48000,
      loopOn: false,
      loopStartBeat: 0,
      loopEndBeat: 16,
      trackIds: [],
      returnIds: [],
      effectsOff: false,
      wetOnly: false,
      bounceFinest: false,
      stage: 'speakers',
      panLaw: '3',
    },
    main: newStrip(MAIN_ID, 'Main'),
    sections: {},
    tracks: {},
    returns: {},
    sends: {},
    clips: {},
    assets: {},
    inserts: {},
    lanes: {},
    notes: {},
    modulators: {},
    comparisons: {},
    prints: {},
  };
}

function newStrip(stripId: string, stripName: string): Strip {
  return {
    id: stripId,
    name: stripName,
    gainDb: 0,
    pan: 0,
    mute: false,
    solo: false,
    bypass: false,
    insertIds: [],
    panMode: 'balance',
    monoLimitDb: 4,
  };
}

export function newTrack(trackId: string, trackName: string): Track {
  return { ...newStrip(trackId, trackName), outputId: MAIN_ID, frozen: null, placeId: null, oppositeOf: null };
}

/** A return pans both its sides, which it alone may hold; a group begins as tracks do. */
export function newReturn(returnId: string, returnName: string, role: Return['role']): Return {
  return { ...newTrack(returnId, returnName), panMode: role === 'return' ? 'stereo' : 'balance', role };
}

/** A send as it begins: after the fader, a little softer than the sound itself. */
export function newSend(sendId: string, fromId: string, toId: string): Send {
  return { id: sendId, fromId, toId, gainDb: -6, tap: 'afterFader', mute: false };
}

/** A modulator as it begins, without anything to move. */
export function newModulator(modulatorId: string, modulatorName: string, kind: Modulator['kind']): Modulator {
  return {
    id: modulatorId,
    name: modulatorName,
    on: true,
    kind,
    rate: kind === 'pattern' ? '1/8' : '1bar',
    shape: 'sine',
    phaseDegrees: 0,
    smoothingSeconds: kind === 'pattern' ? 0.02 : 0,
    steps: [1, -0.5, 0.25, -1, 0.75, -0.25, 0.5, -0.75],
    followId: null,
    followTap: 'beforeFader',
    attackSeconds: 0.01,
    releaseSeconds: 0.25,
    sensitivityDb: 12,
    controller: null,
    handPart: 0,
    targets: [],
  };
}
