/** Of what the engine makes of a plan: higher whenever that is other bits than before, so that prints are made anew. */
export const ENGINE_VERSION = 8;
