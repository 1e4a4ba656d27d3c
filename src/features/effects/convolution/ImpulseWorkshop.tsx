'use client';

import Tab from 'react-bootstrap/Tab';
import Tabs from 'react-bootstrap/Tabs';
import { specOf } from '@/core/effects/registry';
import type { SoundSetting } from '@/core/effects/settings';
import { findSetting } from '@/core/effects/spec';
import { Sheet } from '../../controls/Sheet';
import { bringInSound } from '../../session/soundChoice';
import { useStudio } from '../../session/StudioContext';
import { MeasureTab } from './MeasureTab';
import { SimulateTab } from './SimulateTab';

const setting = findSetting(specOf('convolution'), 'impulse') as SoundSetting;

/** Makes impulses: simulated, or measured in a room. */
export function ImpulseWorkshop({ insertId, onHide }: { readonly insertId: string; readonly onHide: () => void }) {
  const studio = useStudio();
  const made = async (name: string, bytes: Uint8Array) => {
    const file = new File([bytes as Uint8Array<ArrayBuffer>], `${name}.wav`, { type: 'audio/wav' });
    if (await bringInSound(studio, insertId, setting, file)) onHide();
  };
  return (
    <Sheet title="Make an impulse" className="workshop" onHide={onHide}>
      <Tabs defaultActiveKey="simulate" mountOnEnter>
        <Tab eventKey="simulate" title="Simulate">
          <SimulateTab onMade={made} />
        </Tab>
        <Tab eventKey="measure" title="Measure a place">
          <MeasureTab onMade={made} />
        </Tab>
      </Tabs>
    </Sheet>
  );
}
