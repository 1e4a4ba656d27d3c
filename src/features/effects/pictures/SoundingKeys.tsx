'use client';

import { useState } from 'react';
import { keyName } from '@/core/effects/pitchNames';
import { meterSlots } from '@/core/effects/meters';
import { effectById } from '@/core/effects/registry';
import { useStudio } from '../../session/StudioContext';
import { useFrame } from '../../ui/useFrame';

/** Keys that an effect sounds now, after all that transposes them; null while nothing runs. */
export function useSoundingKeys(insertId: string, effect: string): string | null {
  const studio = useStudio();
  const [shown, setShown] = useState<string | null>(null);
  useFrame(() => {
    const count = meterSlots(effectById(effect), 'keys')!.count;
    const keys: string[] = [];
    let runs = false;
    for (let n = 0; n < count; n++) {
      const key = studio.engine.meterValue(insertId, 'keys', n);
      if (key === null) break;
      runs = true;
      if (Number.isNaN(key)) break;
      const off = Math.round(100 * (key - Math.round(key)));
      keys.push(`${keyName(Math.round(key))}${off === 0 ? '' : ` ${off > 0 ? '+' : '−'}${Math.abs(off)} ct`}`);
    }
    const now = runs ? [...new Set(keys)].join(' ') : null;
    if (now !== shown) setShown(now);
  });
  return shown;
}

/** Which notes really sound. */
export function SoundingKeys({ insertId, effect }: { readonly insertId: string; readonly effect: string }) {
  const keys = useSoundingKeys(insertId, effect);
  return (
    <p className="sounding-keys">
      Sounds: <b>{keys === null ? 'nothing runs yet' : keys || 'nothing'}</b>
    </p>
  );
}
