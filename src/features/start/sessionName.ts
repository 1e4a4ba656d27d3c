import { NAME_LENGTH } from '@/core/session/nameLength';
import { shortText } from '@/core/session/fields';

/** A name for a session; an empty one may be given later. */
export const sessionName = shortText(NAME_LENGTH).trim().defined();
