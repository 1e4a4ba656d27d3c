import { normalSetting, type OctavesSetting } from '../../effects/settings';
import { eachInsert, type Old } from './each';

/** The setting of version 11, of which only the range matters here. */
const setting: OctavesSetting = {
  kind: 'octaves',
  id: 'decayOctaves',
  name: 'Decay by octave',
  group: 'Room',
  help: '',
  min: 0.1,
  max: 4,
  default: 'flat',
};

/** A curve through points becomes a factor for each octave: the curve at its middle. */
function withOctaves(insert: Old): Old {
  const { decayCurve, ...values } = insert.values as Old;
  if (insert.effect !== 'reverb' || decayCurve === undefined) return insert;
  return { ...insert, values: { decayOctaves: normalSetting(setting, decayCurve), ...values } };
}

/** Version 11 sets the decay of reverbs by octaves. */
export const toVersion11 = (old: Old): Old => ({ ...old, ...eachInsert(old, withOctaves), version: 11 });
