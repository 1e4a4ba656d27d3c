import { KinetikonError } from '../errors';
import { quoted } from '../text';
import { tiltSpec } from './tilt/spec';
import { transientSpec } from './transient/spec';
import { saturatorSpec } from './saturator/spec';
import { gateSpec } from './gate/spec';
import { eqSpec } from './eq/spec';
import { doublerSpec } from './doubler/spec';
import { deesserSpec } from './deesser/spec';
import { compressorSpec } from './compressor/spec';
import { autopanSpec } from './autopan/spec';
import { chorusSpec } from './chorus/spec';
import { convolutionSpec } from './convolution/spec';
import { delaySpec } from './delay/spec';
import { flangerSpec } from './flanger/spec';
import { midsideSpec } from './midside/spec';
import { phaserSpec } from './phaser/spec';
import { placeSpec } from './place/spec';
import { reverbSpec } from './reverb/spec';
import { harmonySpec } from './harmony/spec';
import { synthSpec } from './synth/spec';
import { vocoderSpec } from './vocoder/spec';
import { limiterSpec } from './limiter/spec';
import type { EffectSpec } from './spec';
import { utilitySpec } from './utility/spec';

/** Every effect, in the order in which they are offered. */
export const EFFECTS: readonly EffectSpec[] = [
  reverbSpec,
  convolutionSpec,
  delaySpec,
  chorusSpec,
  flangerSpec,
  phaserSpec,
  autopanSpec,
  placeSpec,
  doublerSpec,
  midsideSpec,
  harmonySpec,
  vocoderSpec,
  synthSpec,
  eqSpec,
  compressorSpec,
  gateSpec,
  deesserSpec,
  limiterSpec,
  saturatorSpec,
  transientSpec,
  tiltSpec,
  utilitySpec,
];

export function findEffect(id: string): EffectSpec | undefined {
  return EFFECTS.find((spec) => spec.id === id);
}

/** @throws KinetikonError effect.unknown, naming those there are */
export function effectById(id: string): EffectSpec {
  const spec = findEffect(id);
  if (!spec) {
    throw new KinetikonError('effect.unknown', `There is no effect "${quoted(id)}".`, {
      next: `There are: ${EFFECTS.map((one) => one.id).join(', ')}.`,
    });
  }
  return spec;
}
