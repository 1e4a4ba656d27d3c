/** An id for a new record. */
export const newId = () => crypto.randomUUID();
