/** Version of the engine's output. It is raised whenever a plan gives other bits, so that prints are rendered again. */
export const ENGINE_VERSION = 8;
