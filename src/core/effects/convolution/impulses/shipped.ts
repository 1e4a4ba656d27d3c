import type { ParameterValues } from '../../values';
/** Simulators by id; what they compute is in `simulators.ts`, which lists of impulses do without. */
type SimulatorId = 'box' | 'plate' | 'spring' | 'pipe' | 'speaker' | 'outdoor';

/** An impulse that ships: a simulator at some values. */
export interface ShippedImpulse {
  readonly id: string;
  readonly name: string;
  /** Kind of place or thing, for lists. */
  readonly group: string;
  /** One line on what it is. */
  readonly about: string;
  readonly simulator: SimulatorId;
  readonly values: ParameterValues;
  readonly seed: number;
}

const row =
  (group: string, simulator: SimulatorId) =>
  (id: string, name: string, about: string, values: ParameterValues, seed = 1): ShippedImpulse => ({
    id,
    name,
    group,
    about,
    simulator,
    values,
    seed,
  });
const small = row('Small rooms', 'box');
const large = row('Large rooms', 'box');
const sheet = row('Plates', 'plate');
const coil = row('Springs', 'spring');
const tube = row('Pipes', 'pipe');
const cone = row('Loudspeakers', 'speaker');
const open = row('Outdoors', 'outdoor');

/** Every impulse that ships, computed when it is first asked for. */
export const SHIPPED_IMPULSES: readonly ShippedImpulse[] = [
  small('lamp-room', 'Lamp room', 'Glass all round on a stone floor, five steps across.', {
    width: 3.6,
    length: 3.6,
    height: 2.8,
    walls: 'glass',
    front: 'glass',
    back: 'glass',
    floor: 'concrete',
    ceiling: 'board',
  }),
  small('rehearsal', 'Rehearsal room', 'Plasterboard and a wooden floor; even and a little boxy.', {
    width: 5.2,
    length: 7.4,
    height: 2.9,
    walls: 'board',
    front: 'board',
    back: 'drapes',
    floor: 'wood',
    ceiling: 'board',
  }),
  small('cabin', 'Ship cabin', 'Thin wood on all sides, close by.', {
    width: 2.2,
    length: 3,
    height: 2,
    walls: 'panel',
    front: 'panel',
    back: 'panel',
    floor: 'wood',
    ceiling: 'panel',
  }),
  small('washroom', 'Washroom', 'Tiles on the walls, a wooden stall behind: bright and hard.', {
    width: 3,
    length: 4.5,
    height: 2.6,
    walls: 'tile',
    front: 'tile',
    back: 'panel',
    floor: 'tile',
    ceiling: 'panel',
  }),
  small('closet', 'Closet', 'Clothes on two sides; hardly a room.', {
    width: 1.2,
    length: 1.8,
    height: 2.2,
    walls: 'drapes',
    front: 'drapes',
    back: 'board',
    floor: 'carpet',
    ceiling: 'board',
    spacing: 0.15,
  }),
  small('parlour', 'Parlour', 'Carpet and drapes, a plaster ceiling above.', {
    width: 5,
    length: 6.5,
    height: 3.1,
    walls: 'plaster',
    front: 'drapes',
    back: 'plaster',
    floor: 'carpet',
    ceiling: 'plaster',
  }),
  large('boat-hall', 'Boat hall', 'A brick shed over water with a wooden roof.', {
    width: 16,
    length: 34,
    height: 11,
    walls: 'brick',
    front: 'brick',
    back: 'panel',
    floor: 'water',
    ceiling: 'panel',
    spacing: 0.6,
  }),
  large('theatre', 'Puppet theatre', 'Seats full of people under a plaster vault.', {
    width: 11,
    length: 17,
    height: 7,
    walls: 'panel',
    front: 'drapes',
    back: 'plaster',
    floor: 'audience',
    ceiling: 'plaster',
    spacing: 0.5,
  }),
  large('concert', 'Shoebox hall', 'Plaster and wood, seats filled; true stereo.', {
    width: 20,
    length: 44,
    height: 16,
    walls: 'plaster',
    front: 'panel',
    back: 'plaster',
    floor: 'audience',
    ceiling: 'plaster',
    spacing: 0.8,
    sources: 6,
  }),
  large('nave', 'Stone nave', 'Stone above rows of people: a long slow fall.', {
    width: 18,
    length: 62,
    height: 24,
    walls: 'plaster',
    front: 'concrete',
    back: 'plaster',
    floor: 'audience',
    ceiling: 'plaster',
    spacing: 0.8,
  }),
  large('cistern', 'Cistern', 'Concrete over standing water; rings for a very long time.', {
    width: 14,
    length: 30,
    height: 6,
    walls: 'brick',
    front: 'brick',
    back: 'brick',
    floor: 'water',
    ceiling: 'brick',
    spacing: 0.5,
  }),
  large('stairwell', 'Stairwell', 'Narrow, tall and hard; the tail climbs.', {
    width: 2.6,
    length: 5.2,
    height: 19,
    walls: 'concrete',
    front: 'plaster',
    back: 'concrete',
    floor: 'tile',
    ceiling: 'concrete',
  }),
  large('gymnasium', 'Gymnasium', 'Wood below, painted block around: flutter and length.', {
    width: 19,
    length: 32,
    height: 9,
    walls: 'concrete',
    front: 'concrete',
    back: 'panel',
    floor: 'wood',
    ceiling: 'board',
    spacing: 0.6,
  }),
  sheet('plate-large', 'Large plate', 'Two by one metres of thin steel: dense at once.', {}),
  sheet('plate-dark', 'Damped plate', 'The same sheet with felt on it.', { decay: 1.4, damping: 90 }, 2),
  sheet(
    'plate-small',
    'Small thick plate',
    'A small thick sheet; its echoes sweep.',
    { width: 0.9, height: 0.5, thickness: 0.0015, decay: 1.8, damping: 25 },
    3,
  ),
  coil('spring-two', 'Two springs', 'Chirps to both sides.', {}),
  coil(
    'spring-long',
    'Three long springs',
    'Slow and soft, with much drip.',
    { springs: 3, delay: 62, decay: 3.4, drip: 80, cutoff: 3000 },
    2,
  ),
  coil(
    'spring-tight',
    'One tight spring',
    'Short and twangy, in the middle.',
    { springs: 1, delay: 24, decay: 1.1, drip: 30, cutoff: 5000 },
    3,
  ),
  tube('pipe-drain', 'Drain pipe', 'A wide tube longer than a boat.', { length: 9, radius: 0.15 }),
  tube('pipe-organ', 'Stopped pipe', 'Closed at the far end: only odd notes.', {
    length: 0.9,
    radius: 0.03,
    end: 'closed',
  }),
  tube('pipe-speaking', 'Speaking tube', 'Narrow brass from deck to deck.', { length: 14, radius: 0.02, listen: 40 }),
  cone('speaker-radio', 'Kitchen radio', 'A little box that booms and breaks up.', {}),
  cone(
    'speaker-telephone',
    'Telephone',
    'Nothing below the voice and nothing above it.',
    { resonance: 420, q: 1.2, top: 3200, breakup: 35, box: 20 },
    2,
  ),
  cone(
    'speaker-tin',
    'Tin horn',
    'A harbour announcer’s horn: hard and nasal.',
    { resonance: 700, q: 4, top: 4800, breakup: 90, box: 70 },
    3,
  ),
  open('harbour', 'Across the harbour', 'A quay wall a long way off, and another behind it.', {
    distance: 90,
    walls: 3,
    hardness: 80,
    scatter: 30,
  }),
  open('courtyard', 'Courtyard', 'Four walls, no roof.', { distance: 14, walls: 5, hardness: 85, scatter: 45 }, 2),
  open(
    'quarry',
    'Quarry',
    'Far rock all round; echoes with leaves in them.',
    { distance: 180, walls: 6, hardness: 90, scatter: 80 },
    3,
  ),
];
