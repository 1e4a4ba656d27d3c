import { MODE_STEPS, scaleOn, type Scale } from '../effects/scaleKeys';
import { TONICS, type SessionRecord } from './records/session';

/** Keys of a session's scale as steps over C, 0 to 11, from its tonic up. */
export function scaleOf({ keyTonic, keyMode }: Pick<SessionRecord, 'keyTonic' | 'keyMode'>): Scale {
  return scaleOn(TONICS.indexOf(keyTonic), MODE_STEPS[keyMode]);
}
