export const RENDER_STATES = ['waiting', 'running', 'done', 'failed', 'cancelled'] as const;
export type RenderState = (typeof RENDER_STATES)[number];

/** States of renders that have not ended. */
export const UNDER_WAY: readonly RenderState[] = ['waiting', 'running'];

export const isUnderWay = ({ state }: { readonly state: RenderState }): boolean => UNDER_WAY.includes(state);
