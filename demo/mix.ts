import { midsideSpec } from '../src/core/effects/midside/spec';
import { EVENED, THICK } from '../src/core/session/recipes/voices';
import type { Command } from '../src/core/session/commands';
import { newModulator } from '../src/core/session/records/factories';
import type { Lane, Point } from '../src/core/session/records/lanes';
import { BARS, BEATS_PER_BAR, CHORDS, pitchOf } from './score';

/** Effects, returns, keys and automation of the demo. */

const hold = (beat: number, value: number): Point => ({ beat, value, shape: 'hold', bend: 0 });
const line = (beat: number, value: number): Point => ({ beat, value, shape: 'straight', bend: 0 });
const curve = (beat: number, value: number, bend: number): Point => ({ beat, value, shape: 'curved', bend });

const lane = (id: string, ownerId: string, parameter: string, points: Point[], more: Partial<Lane> = {}): Command => ({
  type: 'lane.add',
  lane: { id, ownerId, parameter, on: true, points, mirrorOf: null, mirrorAmount: 100, ...more },
});

const effect = (
  stripId: string,
  id: string,
  index: number,
  kind: string,
  values: Record<string, number | string | boolean>,
): Command => ({ type: 'insert.add', stripId, id, effect: kind, index, values });

const send = (id: string, fromId: string, toId: string, gainDb: number): Command => ({
  type: 'send.add',
  send: { id, fromId, toId, gainDb, tap: 'afterFader', mute: false },
});

/** As far as both sides of a stereo sound stand apart, in metres. */
const AS_WIDE = 6;

/** Puts a strip on the stage at its own level, however far off. */
const place = (stripId: string, values: Record<string, number | string>): Command => ({
  type: 'place.add',
  stripId,
  id: `${stripId}-place`,
  values: { distanceLevel: 0, ...values },
});

/** Beats at which the last word of a phrase begins and has ended. */
const LAST_WORDS = [
  [11, 13.8],
  [21.5, 23.8],
  [27, 29.6],
  [45.5, 47.8],
  [51, 53.6],
] as const;

const FLOOD_BAR = 12;

/** The song's chords from the flood on, for the layer that speaks under the voice. */
const layerNotes = CHORDS.slice(FLOOD_BAR, BARS).flatMap((chord, bar) =>
  chord.map((name, tone) => ({
    id: `layer-${bar}-${tone}`,
    ownerId: 'layer',
    startBeat: (FLOOD_BAR + bar) * BEATS_PER_BAR,
    lengthBeats: BEATS_PER_BAR - 0.125,
    key: pitchOf(name),
    velocity: tone === 0 ? 104 : 88,
  })),
);

const throws: Point[] = [hold(0, -100), ...LAST_WORDS.flatMap(([from, to]) => [hold(from, -9), hold(to, -100)])];

export const MIX: readonly Command[] = [
  effect('lamp-keeper', 'keeper-tone', 0, 'eq', {
    'bands.1.on': true,
    'bands.1.frequency': 95,
    'bands.2.on': true,
    'bands.2.frequency': 320,
    'bands.2.gain': -2.5,
    'bands.4.on': true,
    'bands.4.frequency': 3200,
    'bands.4.gain': 2,
  }),
  effect('lamp-keeper', 'keeper-echo', 1, 'delay', {
    'lines.1.timeLeft': '1/8d',
    'lines.1.timeRight': '1/4',
    'lines.1.linked': false,
    'lines.1.feedback': 38,
    'lines.1.filterType': 'bandPass',
    'lines.1.cutoff': 1500,
    'lines.1.resonance': 0.5,
    'lines.1.modDepth': 0.15,
    'lines.1.modRate': 0.4,
    'lines.1.modPhase': 90,
    mix: 18,
  }),
  // The voice gets a back, and is what it was on one loudspeaker.
  effect('lamp-keeper', 'keeper-depth', 2, 'midside', {
    ...midsideSpec.presets.find(({ id }) => id === 'deepen-voice')!.values,
    'midToSide.gain': -11,
  }),
  // The harp fills both sides; its lows stay where they are.
  effect('harp', 'harp-sides', 0, 'doubler', { time: 14, drift: 15, detune: 3, lowMono: 160, width: 55 }),
  { type: 'return.add', id: 'under', name: 'Echoes under the lamp', role: 'return' },
  effect('under', 'under-echo', 0, 'delay', {
    'lines.1.timeLeft': '1/4d',
    'lines.1.feedback': 58,
    'lines.1.swap': true,
    'lines.1.filterType': 'bandPass',
    'lines.1.cutoff': 1300,
    'lines.1.resonance': 0.5,
    mix: 100,
  }),
  effect('under', 'under-duck', 1, 'compressor', {
    threshold: -43,
    ratio: 20,
    attack: 4,
    release: 350,
    knee: 6,
  }),
  {
    type: 'insert.input',
    id: 'under-duck',
    slot: 'key',
    from: { stripId: 'lamp-keeper', tap: 'beforeFader' },
  },
  { type: 'strip.set', id: 'under', values: { gainDb: -2 } },
  send('keeper-under', 'lamp-keeper', 'under', -8),
  send('announcer-under', 'announcer', 'under', -12),
  send('harp-under', 'harp', 'under', -13),
  { type: 'return.add', id: 'throws', name: 'Throws across the harbour', role: 'return' },
  // A thrown word comes back on two lines by turns; a third, very short one sways behind the second.
  effect('throws', 'throw-echo', 0, 'delay', {
    routing: 'matrix',
    'routing.in.2': 0,
    'routing.in.3': 0,
    'routing.1.2': 80,
    'routing.2.1': 55,
    'routing.2.3': 100,
    'lines.1.timeLeft': '1/2',
    'lines.1.feedback': 0,
    'lines.1.pan': -55,
    'lines.1.filterType': 'lowPass',
    'lines.1.cutoff': 3200,
    'lines.2.on': true,
    'lines.2.timeLeft': '1/4',
    'lines.2.feedback': 0,
    'lines.2.pan': 55,
    'lines.2.level': -2,
    'lines.3.on': true,
    'lines.3.timeLeft': 2.8,
    'lines.3.feedback': 0,
    'lines.3.pan': 55,
    'lines.3.level': -4,
    'lines.3.modDepth': 70,
    'lines.3.modRate': 0.3,
    wear: 'tape',
    hiss: 0,
    wow: 25,
    bandwidth: 30,
    mix: 100,
  }),
  effect('throws', 'throw-drift', 1, 'autopan', { rate: '1bar', depth: 55, shape: 'triangle', smooth: 20 }),
  { type: 'strip.set', id: 'throws', values: { gainDb: -3 } },
  send('keeper-throws', 'lamp-keeper', 'throws', -9),
  lane('throw-lane', 'keeper-throws', 'gainDb', throws),
  lane('harp-pan', 'harp', 'pan', [line(0, -30), line(18, -55), line(36, -10), line(54, -40)]),
  lane('under-pan', 'under', 'pan', [], { mirrorOf: 'harp-pan', mirrorAmount: 80 }),
  lane('organ-level', 'organ', 'gainDb', [
    line(0, -16),
    curve(12, -13, 0.4),
    line(18, -11),
    line(36, -11),
    curve(39, -9, -0.4),
    line(54, -12),
  ]),
  lane('under-feedback', 'under-echo', 'lines.1.feedback', [hold(0, 58), hold(36, 68), hold(54, 50)]),
  effect('announcer', 'announcer-horn', 0, 'eq', {
    'bands.1.on': true,
    'bands.1.frequency': 300,
    'bands.1.slope': '24',
    'bands.3.on': true,
    'bands.3.frequency': 2400,
    'bands.3.gain': 4,
    'bands.8.on': true,
    'bands.8.frequency': 7000,
    'bands.8.slope': '12',
  }),
  // The horn on the quay, and the harbour that answers it.
  effect('announcer', 'announcer-tin', 1, 'convolution', { impulse: 'speaker-tin', mix: 45, gain: -2 }),
  { type: 'return.add', id: 'lamp-room', name: 'Lamp room', role: 'return' },
  effect('lamp-room', 'lamp-room-space', 0, 'reverb', {
    size: 5,
    shape: 'tiled',
    decay: 0.7,
    decayOctaves: '0.6003,0.654,0.7789,0.9252,1,0.9438,0.8476,0.8,0.8',
    earlyLate: 50,
    preDelay: 8,
    lowCut: 180,
    deEss: 6,
    quality: 'eco',
    mix: 100,
  }),
  { type: 'return.add', id: 'tide-hall', name: 'Tide hall', role: 'return' },
  effect('tide-hall', 'tide-hall-space', 0, 'reverb', {
    size: 34,
    shape: 'hall',
    decay: 2.6,
    decayOctaves: '0.9006,1.001,1.14,1.12,1.007,0.8532,0.7,0.4621,0.4',
    earlyLate: 68,
    preDelay: 38,
    lowCut: 190,
    deEss: 6,
    duckAmount: 5,
    duckThreshold: -30,
    mix: 100,
  }),
  send('keeper-room', 'lamp-keeper', 'lamp-room', -10),
  send('harp-room', 'harp', 'lamp-room', -14),
  send('keeper-hall', 'lamp-keeper', 'tide-hall', -100),
  send('saw-hall', 'saw', 'tide-hall', -11),
  send('bell-hall', 'bell', 'tide-hall', -15),
  // A small room while the tide is low; the hall opens through the last line before the flood.
  lane('hall-opens', 'keeper-hall', 'gainDb', [hold(0, -100), hold(30, -26), line(36, -9), hold(54, -14)]),
  lane('room-closes', 'keeper-room', 'gainDb', [hold(0, -10), line(36, -22), hold(54, -12)]),
  effect('organ', 'organ-air', 0, 'chorus', {
    bandLow: 420,
    rate: 0.3,
    depth: 18,
    shape: 'smoothRandom',
    spread: 120,
    mix: 45,
  }),
  // The organ goes round the listener, and its hall round on the other side, lowered where the organ lives.
  { type: 'return.add', id: 'organ-hall', name: 'Far from the organ', role: 'return' },
  effect('organ-hall', 'organ-hall-space', 0, 'reverb', {
    size: 30,
    shape: 'hall',
    decay: 3.4,
    preDelay: 25,
    lowCut: 180,
    quality: 'eco',
    mix: 100,
  }),
  effect('organ-hall', 'organ-hall-room', 1, 'eq', {
    'bands.1.on': false,
    'bands.2.on': true,
    'bands.2.frequency': 315,
    'bands.2.q': 1.4,
    'bands.2.gain': -6,
    'bands.3.on': true,
    'bands.3.frequency': 800,
    'bands.3.q': 1.2,
    'bands.3.gain': -2,
  }),
  send('organ-across', 'organ', 'organ-hall', -5),
  {
    type: 'place.add',
    stripId: 'organ',
    id: 'organ-place',
    values: { azimuth: -30, distance: 2.4, distanceLevel: 0, motion: 'circle', motionRate: '4bar' },
  },
  {
    type: 'place.add',
    stripId: 'organ-hall',
    id: 'organ-hall-place',
    values: { size: 0.5, distance: 2.4, distanceLevel: 0, mirror: 'angle' },
  },
  { type: 'strip.set', id: 'organ-hall', values: { oppositeOf: 'organ' } },
  // Others stand around the listener, as loud as their pan had them on both speakers, and no louder in the returns.
  ...(
    [
      ['announcer', 0],
      ['saw', -11],
      ['tin', -13],
      ['bell', -11],
    ] as const
  ).map(([id, gainDb]): Command => ({ type: 'strip.set', id, values: { gainDb } })),
  place('announcer', { azimuth: 42, distance: 6, size: AS_WIDE, spread: 0 }),
  place('saw', { azimuth: 64, distance: 3.4, height: 2, size: AS_WIDE, spread: 0 }),
  place('tin', { azimuth: -48, distance: 3, size: 1 }),
  place('bell', { azimuth: 10, distance: 14 }),
  // While the tide is high the lamp keeper's words are spoken by the song's chords as well, a good way under the voice.
  { type: 'return.add', id: 'layer', name: 'Words in the water', role: 'return' },
  effect('layer', 'layer-even', 0, 'compressor', EVENED),
  effect('layer', 'layer-words', 1, 'vocoder', { noteSource: 'lane', ...THICK }),
  { type: 'strip.set', id: 'layer', values: { gainDb: -9 } },
  { type: 'note.add', notes: layerNotes },
  send('keeper-layer', 'lamp-keeper', 'layer', -100),
  lane('layer-rises', 'keeper-layer', 'gainDb', [hold(0, -100), hold(35.5, 0), hold(54, -100)]),
  send('layer-hall', 'layer', 'tide-hall', -6),
  // Two others sing the last line with her, in the key.
  { type: 'return.add', id: 'beside', name: 'Beside the lamp keeper', role: 'return' },
  effect('beside', 'beside-voices', 0, 'harmony', {
    'voices.1.on': true,
    'voices.1.follow': 'degrees',
    'voices.1.degrees': 2,
    'voices.1.pan': -45,
    'voices.1.delay': 16,
    'voices.1.humanize': 30,
    'voices.2.on': true,
    'voices.2.follow': 'degrees',
    'voices.2.degrees': -3,
    'voices.2.pan': 45,
    'voices.2.delay': 27,
    'voices.2.humanize': 45,
    mix: 100,
  }),
  send('keeper-beside', 'lamp-keeper', 'beside', -100),
  lane('others-join', 'keeper-beside', 'gainDb', [hold(0, -100), hold(47.75, -7), hold(54, -100)]),
  send('beside-hall', 'beside', 'tide-hall', -10),
  effect('saw', 'saw-sweep', 0, 'flanger', { delay: 1.8, rate: 0.09, depth: 80, feedback: 30, mix: 40 }),
  {
    type: 'modulator.add',
    modulator: {
      ...newModulator('slow-tide', 'Slow tide', 'walk'),
      rate: 0.12,
      targets: [
        { insertId: 'saw-sweep', parameter: 'feedback', depth: 12, polarity: 'both' },
        { insertId: 'throw-echo', parameter: 'lines.1.cutoff', depth: -14, polarity: 'both' },
      ],
    },
  },
  {
    type: 'modulator.add',
    modulator: {
      ...newModulator('under-the-words', 'Under the words', 'follower'),
      followId: 'lamp-keeper',
      releaseSeconds: 0.6,
      targets: [{ insertId: 'organ-air', parameter: 'depth', depth: -10, polarity: 'up' }],
    },
  },
  effect('tin', 'tin-shape', 0, 'transient', { attack: 12, sustain: -15 }),
  effect('main', 'main-limiter', 0, 'limiter', { gain: 2.7, ceiling: -1.5 }),
];
