import { newClip, newDocument, newTrack } from '@/core/session/records/factories';
import type { SessionDocument } from '@/core/session/records/document';

/** A session of 100 tracks with 20 clips and a lane of 2000 points each. */
export function largeSession(): SessionDocument {
  const document = newDocument('Large');
  const assetId = 'a'.repeat(64);
  document.assets[assetId] = { id: assetId, name: 'a.wav', frames: 480000, sampleRateHz: 48000, channels: 1 };
  for (let track = 0; track < 100; track++) {
    const trackId = `track-${track}`;
    document.tracks[trackId] = newTrack(trackId, `Track ${track}`);
    document.session.trackIds.push(trackId);
    for (let n = 0; n < 20; n++) {
      const id = `clip-${track}-${n}`;
      const source = { kind: 'sound' as const, assetId };
      document.clips[id] = newClip({ id, trackId, source, name: `Clip ${n}`, startBeat: n * 8, lengthSeconds: 3 });
    }
    const points = Array.from({ length: 2000 }, (_, n) => ({
      beat: n / 10,
      value: -10 + (n % 17),
      shape: 'straight' as const,
      bend: 0,
    }));
    const lane = { ownerId: trackId, parameter: 'gainDb', on: true, mirrorOf: null, mirrorAmount: 100, points };
    document.lanes[`lane-${track}`] = { id: `lane-${track}`, ...lane };
  }
  return document;
}
