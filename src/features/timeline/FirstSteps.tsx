'use client';

import { useEffect, useState } from 'react';
import { Spline, Waves } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import type { Asset } from '@/core/session/records/clips';
import { TAKEN_NAMES } from '@/core/formats/soundFormats';
import { listDemoSounds } from '@/runtime/client/api';
import { startTour } from '../session/tour';
import { useStudio } from '../session/StudioContext';

/** First steps in an empty session. */
export function FirstSteps({ onBringIn }: { readonly onBringIn: () => void }) {
  const studio = useStudio();
  const [sounds, setSounds] = useState<readonly Asset[]>([]);
  useEffect(() => {
    listDemoSounds().then(setSounds, (error: unknown) => studio.messages.report(error));
  }, [studio]);
  return (
    <div className="first-steps">
      <h2>Nothing here yet</h2>
      <ol>
        <li>
          <b>Bring in a sound.</b> Drop sound files ({TAKEN_NAMES}) anywhere on this sheet, or{' '}
          <Button variant="line" onClick={onBringIn}>
            choose files
          </Button>
          <p>Several files get a track each, or follow one another on one.</p>
          {sounds.length > 0 && (
            <>
              <p>Or try one of the demo’s:</p>
              <div className="sounds">
                {sounds.map((asset) => (
                  <Button key={asset.id} variant="plain" onClick={() => studio.imports.placeSound(asset, 0, null)}>
                    {asset.name.replace(/\.[^.]*$/, '').replaceAll('-', ' ')}
                  </Button>
                ))}
              </div>
            </>
          )}
        </li>
        <li>
          <b>Add an effect</b> with “+ effect” at the right, and press Space to hear it.
        </li>
        <li>
          <b>Animate it.</b> Beside a value, <Spline size={13} aria-hidden="true" /> draws it over time in a lane;
          beside those of effects, <Waves size={13} aria-hidden="true" /> lets a modulator move it.
        </li>
        <li>
          <b>Share a space:</b> “+ send” at the right makes a return that several tracks can use. Recipes build whole
          routings.
        </li>
      </ol>
      <Button variant="line" onClick={() => void startTour(studio)}>
        Show me around
      </Button>
    </div>
  );
}
