import { effectById } from '@/core/effects/registry';
import { findParameter } from '@/core/effects/spec';
import { newDocument } from '@/core/session/records/factories';
import { addPoint, takeCommand, type Take } from './automationRecording';

const take = (effect: string, id: string): Take => ({
  ownerId: 'x',
  parameter: findParameter(effectById(effect), id)!,
  points: [],
});

describe('what is written', () => {
  it('passes behind by going over from one end of an angle to the other, not round by the front', () => {
    const written = take('place', 'azimuth');
    for (const [beat, value] of [
      [0, 160],
      [1, 170],
      [2, -170],
      [3, -150],
    ] as const) {
      addPoint(written, beat, value);
    }
    expect(written.points.map(({ beat, value }) => [beat, value])).toEqual([
      [0, 160],
      [1, 170],
      [1.5, 180],
      [1.5, -180],
      [2, -170],
      [3, -150],
    ]);
    const command = takeCommand(newDocument('Round'), written, null, 'lane');
    const points = command?.type === 'lane.add' ? command.lane.points : [];
    expect(points.filter(({ beat }) => beat === 1.5).map(({ value }) => value)).toEqual([180, -180]);
  });

  it('leaves other rulers as they are', () => {
    const written = take('delay', 'mix');
    addPoint(written, 0, 0);
    addPoint(written, 1, 100);
    expect(written.points.map(({ value }) => value)).toEqual([0, 100]);
  });
});
