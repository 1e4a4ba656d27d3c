/** The web server and what opens the data are bundled apart and meet here: the first calls the second when it ends. */
export const stopping = globalThis as typeof globalThis & { kinetikonStop?: () => Promise<void> };
