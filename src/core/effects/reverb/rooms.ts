import { SOUND_SPEED } from '../../dsp/airAbsorption';

/** A box: its sides as parts of its length, what its surfaces give back, and how much of the highs each takes away. */
export interface Room {
  readonly id: string;
  readonly name: string;
  /** Width and height as parts of the length. */
  readonly width: number;
  readonly height: number;
  /** Part of the sound pressure given back: sides, ends, floor, ceiling. */
  readonly walls: readonly [sides: number, ends: number, floor: number, ceiling: number];
  /** Part of the highs that is lost at each reflection. */
  readonly dull: number;
}

export const ROOMS: readonly Room[] = [
  { id: 'booth', name: 'Booth', width: 0.85, height: 0.8, walls: [0.55, 0.55, 0.5, 0.45], dull: 0.55 },
  { id: 'tiled', name: 'Tiled room', width: 0.7, height: 0.6, walls: [0.95, 0.95, 0.93, 0.9], dull: 0.08 },
  { id: 'chamber', name: 'Chamber', width: 0.75, height: 0.55, walls: [0.86, 0.84, 0.8, 0.84], dull: 0.22 },
  { id: 'hall', name: 'Hall', width: 0.55, height: 0.4, walls: [0.85, 0.78, 0.62, 0.82], dull: 0.3 },
  { id: 'corridor', name: 'Corridor', width: 0.12, height: 0.14, walls: [0.9, 0.82, 0.8, 0.86], dull: 0.25 },
  { id: 'cathedral', name: 'Cathedral', width: 0.4, height: 0.55, walls: [0.9, 0.88, 0.86, 0.85], dull: 0.2 },
  { id: 'yard', name: 'Open yard', width: 0.9, height: 0.35, walls: [0.8, 0.8, 0.7, 0], dull: 0.15 },
];
export const DEFAULT_ROOM = ROOMS.findIndex(({ id }) => id === 'hall');

/** A position in a room: parts of its width from the left and of its length from the front. */
export interface Place {
  readonly across: number;
  readonly along: number;
}

/** Ears, and whoever sounds, are this high, or a little under half as high as the ceiling where that is low. */
const EAR_METRES = 1.6;
const HIGHEST_EAR = 0.45;

/** Places of walls by number: left, right, front, back, floor, ceiling. */
interface ImageNumber {
  readonly order: number;
  /** Reflections at each of the two walls across, along and upright. */
  readonly counts: readonly [number, number, number, number, number, number];
  /** The coordinate of an image is `sign` times the source's plus `lengths` times the side. */
  readonly signs: readonly [number, number, number];
  readonly lengths: readonly [number, number, number];
}

/** All images of a source in a box up to an order (Allen and Berkley, JASA 65, 1979), the direct sound left out. */
function imagesUpTo(most: number): ImageNumber[] {
  const images: ImageNumber[] = [];
  // Along one axis: n reflections in a row, beginning at either wall.
  const axis = Array.from({ length: 2 * most + 1 }, (_, at) => {
    const n = at - most;
    const low = n < 0 ? Math.ceil(-n / 2) : Math.floor(n / 2);
    const high = n < 0 ? Math.floor(-n / 2) : Math.ceil(n / 2);
    return { count: Math.abs(n), low, high, sign: n % 2 === 0 ? 1 : -1, length: n % 2 === 0 ? n : n + 1 };
  });
  for (const x of axis) {
    for (const y of axis) {
      for (const z of axis) {
        const order = x.count + y.count + z.count;
        if (order === 0 || order > most) continue;
        images.push({
          order,
          counts: [x.low, x.high, y.low, y.high, z.low, z.high],
          signs: [x.sign, y.sign, z.sign],
          lengths: [x.length, y.length, z.length],
        });
      }
    }
  }
  return images.sort((a, b) => a.order - b.order);
}

/** An early reflection as it arrives. */
export interface Reflection {
  /** After the direct sound. */
  seconds: number;
  /** Beside the direct sound. */
  gain: number;
  /** From which side, -1 for the left to 1 for the right. */
  side: number;
}

export const MOST_ORDER = 4;
const IMAGES = imagesUpTo(MOST_ORDER);
export const MOST_REFLECTIONS = IMAGES.length;
/** Walls that each reflection has met. */
export const ORDERS = IMAGES.map(({ order }) => order);

/** Number of reflections up to an order. */
export const reflectionsUpTo = (order: number): number => IMAGES.filter((image) => image.order <= order).length;

/**
 * Early reflections of a box, by image sources; whoever listens looks at the source.
 * @param size length of the box in metres
 * @param out as many as there are to be, in the order of ORDERS
 */
export function reflect(room: Room, size: number, source: Place, listener: Place, out: readonly Reflection[]): void {
  const sides = [room.width * size, size, room.height * size] as const;
  const up = Math.min(EAR_METRES, HIGHEST_EAR * sides[2]);
  const x = listener.across * sides[0];
  const y = listener.along * sides[1];
  const toX = source.across * sides[0] - x;
  const toY = source.along * sides[1] - y;
  const direct = Math.max(0.3, Math.sqrt(toX * toX + toY * toY));
  const level = Math.sqrt(toX * toX + toY * toY);
  // To the right of the way to the source.
  const rightX = level > 0 ? -toY / level : 1;
  const rightY = level > 0 ? toX / level : 0;
  const [across, along, floor, ceiling] = room.walls;
  for (let n = 0; n < out.length; n++) {
    const { counts, signs, lengths } = IMAGES[n]!;
    const dx = signs[0] * source.across * sides[0] + lengths[0] * sides[0] - x;
    const dy = signs[1] * source.along * sides[1] + lengths[1] * sides[1] - y;
    const dz = signs[2] * up + lengths[2] * sides[2] - up;
    const distance = Math.max(direct, Math.sqrt(dx * dx + dy * dy + dz * dz));
    let gain = direct / distance;
    for (let k = counts[0] + counts[1]; k > 0; k--) gain *= across;
    for (let k = counts[2] + counts[3]; k > 0; k--) gain *= along;
    for (let k = counts[4]; k > 0; k--) gain *= floor;
    for (let k = counts[5]; k > 0; k--) gain *= ceiling;
    const one = out[n]!;
    one.seconds = (distance - direct) / SOUND_SPEED;
    one.gain = gain;
    one.side = (dx * rightX + dy * rightY) / distance;
  }
}
