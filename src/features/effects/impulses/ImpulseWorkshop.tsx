'use client';

import Modal from 'react-bootstrap/Modal';
import Tab from 'react-bootstrap/Tab';
import Tabs from 'react-bootstrap/Tabs';
import { useStudio } from '../../session/StudioContext';
import { MeasureTab } from './MeasureTab';
import { SimulateTab } from './SimulateTab';

/** Where impulses are made: worked out by simulators, or measured in a place. */
export function ImpulseWorkshop({ insertId, onHide }: { readonly insertId: string; readonly onHide: () => void }) {
  const studio = useStudio();
  const made = async (name: string, bytes: Uint8Array) => {
    const job = studio.startJob(`Taking ${name} in`);
    try {
      const file = new File([bytes as Uint8Array<ArrayBuffer>], `${name}.wav`, { type: 'audio/wav' });
      const asset = await studio.takeIn(file, job.signal, job.progress);
      const done = studio.perform(
        {
          type: 'all',
          commands: [
            { type: 'asset.add', asset: { ...asset } },
            { type: 'insert.set', id: insertId, values: { impulse: asset.id } },
          ],
        },
        `Convolution: ${name}`,
      );
      if (done) onHide();
    } catch (error) {
      studio.report(error);
    } finally {
      job.end();
    }
  };
  return (
    <Modal show centered size="xl" onHide={onHide} aria-labelledby="workshop-title" className="workshop">
      <Modal.Header closeButton>
        <Modal.Title id="workshop-title" as="h2">
          Make an impulse
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <Tabs defaultActiveKey="simulate" mountOnEnter>
          <Tab eventKey="simulate" title="Simulate">
            <SimulateTab onMade={made} />
          </Tab>
          <Tab eventKey="measure" title="Measure a place">
            <MeasureTab onMade={made} />
          </Tab>
        </Tabs>
      </Modal.Body>
    </Modal>
  );
}
