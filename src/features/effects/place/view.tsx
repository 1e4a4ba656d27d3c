import type { EffectExtras } from '../extras';
import { PlacePlan } from './PlacePlan';

export const placeView: EffectExtras = { Picture: PlacePlan, pictureName: 'Plan', beside: true };
