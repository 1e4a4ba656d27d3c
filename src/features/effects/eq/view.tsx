import { BandPicture } from './BandPicture';
import type { EffectExtras } from '../extras';
import { MirrorMenu } from './MirrorMenu';

export const eqView: EffectExtras = { Picture: BandPicture, Tools: MirrorMenu, withSpectrum: true };
