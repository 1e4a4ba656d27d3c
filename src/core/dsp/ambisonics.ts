/** Channels of a sound field of an order. */
export const fieldChannels = (order: number): number => (order + 1) * (order + 1);
export const HIGHEST_ORDER = 3;
export type FieldOrder = 1 | 3;

/**
 * Gains of a plane wave in the channels of a sound field, to the third order: real spherical harmonics in ACN order with
 * SN3D normalisation (Nachbar et al., "AmbiX: a suggested Ambisonics format", 2011).
 * @param out one gain a channel: 4, 9 or 16 of them
 * @param x,y,z unit vector to the source, x ahead, y to the left, z up
 */
export function encodeDirection(out: Float64Array, x: number, y: number, z: number): void {
  out[0] = 1;
  out[1] = y;
  out[2] = z;
  out[3] = x;
  if (out.length < 9) return;
  const root3 = Math.sqrt(3);
  out[4] = root3 * x * y;
  out[5] = root3 * y * z;
  out[6] = 0.5 * (3 * z * z - 1);
  out[7] = root3 * x * z;
  out[8] = 0.5 * root3 * (x * x - y * y);
  if (out.length < 16) return;
  const root15 = Math.sqrt(15);
  const root3over8 = Math.sqrt(3 / 8);
  const root5over8 = Math.sqrt(5 / 8);
  out[9] = root5over8 * y * (3 * x * x - y * y);
  out[10] = root15 * x * y * z;
  out[11] = root3over8 * y * (5 * z * z - 1);
  out[12] = 0.5 * z * (5 * z * z - 3);
  out[13] = root3over8 * x * (5 * z * z - 1);
  out[14] = 0.5 * root15 * z * (x * x - y * y);
  out[15] = root5over8 * x * (x * x - 3 * y * y);
}
