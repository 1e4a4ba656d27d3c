import type { Spot } from '@/core/effects/place/motion';
import type { EngineClient } from '@/runtime/client/engineClient';

/** Position of a place as the engine plays it; null while it does not. */
export function meteredSpot(engine: Pick<EngineClient, 'playing' | 'meterValue'>, placeId: string): Spot | null {
  if (!engine.playing) return null;
  const axis = (index: number) => engine.meterValue(placeId, 'position', index) ?? 0;
  const spot = { x: axis(0), y: axis(1), z: axis(2) };
  return spot.x === 0 && spot.y === 0 ? null : spot;
}
