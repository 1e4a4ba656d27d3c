import { newClip, newTrack } from '@/core/session/records/factories';
import type { SessionDocument } from '@/core/session/records/document';

/**
 * The demo with more tracks, so many strips in all, and so many clips on them: short pieces of one of its sounds, one
 * after another, muted, so that the engine works as hard as on the demo.
 */
export function crowdedSession(demo: SessionDocument, strips: number, clips: number): SessionDocument {
  const document = structuredClone(demo);
  document.session.name = `Crowd of ${strips}`;
  const asset = Object.values(document.assets).find(({ name }) => name.startsWith('tin'))!;
  const own = document.session.trackIds.length + document.session.returnIds.length + 1;
  const tracks = Array.from({ length: strips - own }, (_, n) => `crowd-${n}`);
  for (const [n, id] of tracks.entries()) {
    document.tracks[id] = { ...newTrack(id, `Crowd ${n + 1}`), mute: true };
    document.session.trackIds.push(id);
  }
  for (let n = 0; n < clips; n++) {
    const trackId = tracks[n % tracks.length]!;
    const startBeat = 3 * Math.floor(n / tracks.length) + (n % 3);
    const source = { kind: 'sound' as const, assetId: asset.id };
    const id = `crowd-clip-${n}`;
    document.clips[id] = newClip({ id, trackId, source, name: `piece ${n}`, startBeat, lengthSeconds: 1 });
  }
  return document;
}
