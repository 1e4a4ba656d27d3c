import { airLossDb, SOUND_SPEED } from '../../../dsp/airAbsorption';
import { dbToGain, exp, log } from '../../../math/elementary';
import { SeededRandom } from '../../../math/random';
import { smoothstep } from '../../../math/smoothstep';
import { BAND_HZ, sumOfBands } from './bands';
import { MATERIALS, MATERIAL_HZ, type Material } from './materials';
import { LONGEST_SECONDS, metres, noiseOf, oneOf, share, type Figures, type Simulator } from './simulator';
import { number } from '../../spec';

/** Natural logarithm of the energy of 60 dB. */
const LN_60_DB = 13.815510557964274;
/** Mixing time, in seconds over the root of the volume in cubic metres (Polack, 1988): from then on the sound is diffuse. */
const MIXING = 0.004;
const LATEST_MIXING = 0.16;
/** The tail is worked out until it has fallen by this much. */
const RANGE_DB = 75;
/** A microphone hears this much from behind: half of a cardioid. */
const OMNI_SHARE = 0.6;

/** Absorption at a band: bands beyond the table go on as its ends do. */
function absorptionAt({ absorption }: Material, hz: number): number {
  const last = MATERIAL_HZ.length - 1;
  for (let n = 0; n < last; n++) {
    if (hz <= MATERIAL_HZ[n]!) return absorption[n]!;
  }
  return absorption[last]!;
}

interface Box {
  readonly sides: readonly [number, number, number];
  /** Absorption of each wall (left, right, front, back, floor, ceiling), by band. */
  readonly walls: readonly (readonly number[])[];
}

/** Decay by band from absorption and air (Eyring, 1930). */
export function eyringSeconds({ sides, walls }: Box, band: number): number {
  const [x, y, z] = sides;
  const areas = [y * z, y * z, x * z, x * z, x * y, x * y];
  const surface = areas.reduce((sum, area) => sum + area, 0);
  const mean = areas.reduce((sum, area, wall) => sum + area * walls[wall]![band]!, 0) / surface;
  const air = airLossDb(BAND_HZ[band]!) / 4.342944819032518;
  return (24 * Math.LN10 * x * y * z) / (SOUND_SPEED * (-surface * log(1 - mean) + 4 * air * x * y * z));
}

function boxOf(figures: Figures): Box {
  const sides = [figures('width'), figures('length'), figures('height')] as const;
  const wall = (id: string) => {
    const material = MATERIALS[figures(id)]!;
    return BAND_HZ.map((hz) => Math.min(0.98, absorptionAt(material, hz)));
  };
  const [side, front, back, floor, ceiling] = ['walls', 'front', 'back', 'floor', 'ceiling'].map(wall);
  return { sides, walls: [side!, side!, front!, back!, floor!, ceiling!] };
}

const wallChoice = (id: string, name: string, byDefault: string, help: string) =>
  oneOf(id, name, 'Surfaces', byDefault, MATERIALS, help);

/** One receiver: where it is, and where it looks, as a part of the way across. */
interface Ear {
  readonly x: number;
  readonly lookX: number;
  readonly lookY: number;
}

/**
 * A box of six surfaces: single reflections by image sources (Allen and Berkley, 1979), in octaves, each dulled by its
 * walls and the air it has come through; then a diffuse tail that falls by Eyring's formula, at the level that the density
 * of images has there (Kuttruff, "Room Acoustics", 2009).
 */
export const boxRoom: Simulator = {
  id: 'box',
  name: 'Box room',
  purpose: 'A room with six surfaces of your choice, a source, and a pair of microphones.',
  parameters: [
    metres('width', 'Width', 1, 60, 6, 'From the left to the right wall.'),
    metres('length', 'Length', 1, 120, 9, 'From the front to the back wall.'),
    metres('height', 'Height', 1, 40, 3.2, 'From floor to ceiling.'),
    wallChoice('walls', 'Side walls', 'plaster', 'What the left and the right wall are made of.'),
    wallChoice('front', 'Front wall', 'plaster', 'What the wall behind the source is made of.'),
    wallChoice('back', 'Back wall', 'panel', 'What the wall behind the microphones is made of.'),
    wallChoice('floor', 'Floor', 'wood', 'What the floor is made of.'),
    wallChoice('ceiling', 'Ceiling', 'board', 'What the ceiling is made of.'),
    share('sourceAcross', 'Source across', 'Places', 45, 'Where the source stands between left and right.'),
    share('sourceAlong', 'Source along', 'Places', 25, 'Where the source stands between front and back.'),
    share('listenerAcross', 'Microphones across', 'Places', 53, 'Where the pair stands between left and right.'),
    share('listenerAlong', 'Microphones along', 'Places', 68, 'Where the pair stands between front and back.'),
    number({
      id: 'spacing',
      name: 'Pair spacing',
      group: 'Places',
      unit: 'm',
      min: 0,
      max: 3,
      default: 0.3,
      scale: 'linear',
      help: 'How far the two microphones stand apart.',
    }),
    number({
      id: 'sources',
      name: 'Sources apart',
      group: 'Places',
      unit: 'm',
      min: 0,
      max: 10,
      default: 0,
      scale: 'linear',
      help: 'Over 0 the left and the right side sound from places of their own: true stereo.',
    }),
  ],
  simulate(figures, seed, sampleRate, progress = () => {}) {
    const box = boxOf(figures);
    const [width, length, height] = box.sides;
    const random = new SeededRandom(7001 + seed);
    const apart = Math.min(figures('sources'), 0.8 * width);
    const inside = (at: number, side: number) => Math.min(side - 0.2, Math.max(0.2, at));
    const level = Math.min(1.5, 0.5 * height);
    const y = inside((figures('listenerAlong') / 100) * length, length);
    const middle = (figures('listenerAcross') / 100) * width;
    const sourceY = inside((figures('sourceAlong') / 100) * length, length);
    const sourceX = (figures('sourceAcross') / 100) * width;
    const half = figures('spacing') / 2;
    const ears: readonly [Ear, Ear] = [
      { x: inside(middle - half, width), lookX: -0.5, lookY: -0.866 },
      { x: inside(middle + half, width), lookX: 0.5, lookY: -0.866 },
    ];
    const decays = BAND_HZ.map((_, band) => eyringSeconds(box, band));
    const volume = width * length * height;
    const mixing = Math.min(LATEST_MIXING, MIXING * Math.sqrt(volume));
    const seconds = Math.min(LONGEST_SECONDS, mixing + (Math.max(...decays) * RANGE_DB) / 60);
    const frames = Math.ceil(seconds * sampleRate);
    const places = apart > 0 ? [sourceX - apart / 2, sourceX + apart / 2] : [sourceX];
    // Loss by metre of air, as a factor.
    const air = BAND_HZ.map((hz) => airLossDb(hz));
    const sides = [new Float64Array(frames), new Float64Array(frames)] as const;
    const [left, right] = sides;
    const paths: Float32Array[] = [];
    places.forEach((place, number) => {
      const x = inside(place, width);
      const [noiseLeft, noiseRight] = ears.map(() => noiseOf(frames, random, Math.sqrt(3)));
      const direct = Math.max(0.5, Math.sqrt((x - middle) * (x - middle) + (sourceY - y) * (sourceY - y)));
      const soundAt = (band: number) => {
        progress((number + band / BAND_HZ.length) / places.length);
        ears.forEach((ear, side) => {
          sides[side]!.fill(0);
          addImages(
            sides[side]!,
            box,
            band,
            { x, y: sourceY, z: level },
            { ear, y, z: level },
            direct,
            mixing,
            air[band]!,
            sampleRate,
          );
        });
        // Images come as densely as 4 pi c^3 t^2 / V, each with the energy of 1 / (c t)^2.
        const power = (4 * Math.PI * SOUND_SPEED) / volume / sampleRate / 2;
        const slope = -LN_60_DB / 2 / decays[band]! / sampleRate;
        const begin = Math.round(0.6 * mixing * sampleRate);
        const full = Math.round(mixing * sampleRate);
        const lead = Math.round((direct / SOUND_SPEED) * sampleRate);
        for (let n = begin; n < frames; n++) {
          const rise = n < full ? Math.sqrt(smoothstep((n - begin) / (full - begin))) : 1;
          const gain = rise * Math.sqrt(power) * exp(slope * (n + lead));
          left[n] = left[n]! + gain * noiseLeft![n]!;
          right[n] = right[n]! + gain * noiseRight![n]!;
        }
      };
      paths.push(
        ...sumOfBands(frames, sampleRate, (add) =>
          BAND_HZ.forEach((_, band) => {
            soundAt(band);
            add([band], left, right);
          }),
        ),
      );
    });
    return paths;
  },
};

/** Adds all images that arrive before what is diffuse takes over, as it rises. */
function addImages(
  out: Float64Array,
  { sides, walls }: Box,
  band: number,
  source: { readonly x: number; readonly y: number; readonly z: number },
  listener: { readonly ear: Ear; readonly y: number; readonly z: number },
  direct: number,
  mixing: number,
  airDb: number,
  sampleRate: number,
): void {
  const reach = direct + mixing * SOUND_SPEED;
  const { ear } = listener;
  // Along one axis: the image's coordinate, and how often each of the two walls has been met.
  const axis = (side: number, at: number, first: number, second: number) => {
    const most = Math.ceil(reach / side) + 1;
    return Array.from({ length: 2 * most + 1 }, (_, index) => {
      const n = index - most;
      const near = n < 0 ? Math.ceil(-n / 2) : Math.floor(n / 2);
      const far = n < 0 ? Math.floor(-n / 2) : Math.ceil(n / 2);
      let gain = 1;
      for (let k = 0; k < near; k++) gain *= Math.sqrt(1 - walls[first]![band]!);
      for (let k = 0; k < far; k++) gain *= Math.sqrt(1 - walls[second]![band]!);
      return { place: n % 2 === 0 ? n * side + at : (n + 1) * side - at, gain };
    });
  };
  const [xs, ys, zs] = [
    axis(sides[0], source.x, 0, 1),
    axis(sides[1], source.y, 2, 3),
    axis(sides[2], source.z, 4, 5),
  ] as const;
  const full = mixing * sampleRate;
  const begin = 0.6 * full;
  for (const x of xs) {
    const dx = x.place - ear.x;
    if (Math.abs(dx) > reach) continue;
    for (const y of ys) {
      const dy = y.place - listener.y;
      if (dx * dx + dy * dy > reach * reach) continue;
      for (const z of zs) {
        const dz = z.place - listener.z;
        const distance = Math.sqrt(dx * dx + dy * dy + dz * dz);
        const at = ((distance - direct) / SOUND_SPEED) * sampleRate;
        if (at >= full || at < -0.01 * sampleRate) continue;
        const turn = (dx * ear.lookX + dy * ear.lookY) / Math.max(distance, 0.1);
        const heard = OMNI_SHARE + (1 - OMNI_SHARE) * turn;
        const fall = at > begin ? Math.sqrt(1 - smoothstep((at - begin) / (full - begin))) : 1;
        const gain = (x.gain * y.gain * z.gain * heard * fall * dbToGain(-airDb * distance)) / Math.max(distance, 0.5);
        const frame = Math.max(0, Math.round(at));
        out[frame] = out[frame]! + gain;
      }
    }
  }
}
