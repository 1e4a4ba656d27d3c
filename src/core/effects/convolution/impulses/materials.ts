/** Octaves in Hz that absorption is told at. */
export const MATERIAL_HZ = [125, 250, 500, 1000, 2000, 4000] as const;

export interface Material {
  readonly id: string;
  readonly name: string;
  /** Part of the energy that is taken away, by octave. */
  readonly absorption: readonly [number, number, number, number, number, number];
}

/** Absorption of common surfaces, after Everest and Pohlmann, "Master Handbook of Acoustics", 5th ed. (2009), appendix. */
export const MATERIALS: readonly Material[] = [
  { id: 'tile', name: 'Glazed tile or marble', absorption: [0.01, 0.01, 0.01, 0.01, 0.02, 0.02] },
  { id: 'concrete', name: 'Painted concrete block', absorption: [0.1, 0.05, 0.06, 0.07, 0.09, 0.08] },
  { id: 'brick', name: 'Brick', absorption: [0.03, 0.03, 0.03, 0.04, 0.05, 0.07] },
  { id: 'plaster', name: 'Plaster on brick', absorption: [0.013, 0.015, 0.02, 0.03, 0.04, 0.05] },
  { id: 'board', name: 'Plasterboard on studs', absorption: [0.29, 0.1, 0.05, 0.04, 0.07, 0.09] },
  { id: 'wood', name: 'Wooden floor', absorption: [0.15, 0.11, 0.1, 0.07, 0.06, 0.07] },
  { id: 'panel', name: 'Thin wood panelling', absorption: [0.28, 0.22, 0.17, 0.09, 0.1, 0.11] },
  { id: 'glass', name: 'Heavy glass', absorption: [0.18, 0.06, 0.04, 0.03, 0.02, 0.02] },
  { id: 'carpet', name: 'Heavy carpet on concrete', absorption: [0.02, 0.06, 0.14, 0.37, 0.6, 0.65] },
  { id: 'drapes', name: 'Heavy drapes', absorption: [0.14, 0.35, 0.55, 0.72, 0.7, 0.65] },
  { id: 'audience', name: 'People on upholstered seats', absorption: [0.39, 0.57, 0.8, 0.94, 0.92, 0.87] },
  { id: 'water', name: 'Water', absorption: [0.008, 0.008, 0.013, 0.015, 0.02, 0.025] },
];
