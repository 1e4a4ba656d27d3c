import { DelayLines } from './DelayLines';
import { DelayRouting } from './DelayRouting';
import type { EffectExtras } from '../extras';
import './delay.css';

/** Groups of a line, and the mix of all. */
const ofLine = (heading: string) => / \d+$/.test(heading) || heading === 'Output';

export const delayView: EffectExtras = {
  Items: DelayLines,
  pages: [
    { id: 'line', name: (line) => `Line ${line}`, holds: ofLine },
    { id: 'flow', name: () => 'Flow', holds: (heading) => heading === 'Flow' },
    {
      id: 'whole',
      name: () => 'Wear, ducking, safety',
      holds: (heading) => heading !== 'Flow' && !ofLine(heading),
    },
  ],
  groups: { Flow: DelayRouting },
  shows: (id) => id === 'routing' || id.startsWith('routing.') || /^lines\.\d+\.(mute|solo)$/.test(id),
  withoutHistory: true,
};
