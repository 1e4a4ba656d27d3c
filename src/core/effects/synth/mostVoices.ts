/** Notes that sound at a time. */
export const MOST_VOICES = 16;
