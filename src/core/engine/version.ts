/**
 * Version of the engine's output. It is raised whenever a plan gives other bits by other than its effects, which have
 * versions of their own, so that all prints are rendered again.
 */
export const ENGINE_VERSION = 8;
