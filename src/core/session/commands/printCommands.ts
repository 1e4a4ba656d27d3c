import { removePrint, unlink } from '../clipEdits';
import { need } from '../commandHelpers';
import type { Print, PrintRecipe } from '../records/prints';
import type { Handlers } from './handlers';

export interface PrintCommands {
  'print.add': { print: Print };
  /** Sets the rendered sound of a print, which is among the session's sounds already. */
  'print.made': { id: string; made: Print['made'] };
  'print.set': { id: string; recipe: PrintRecipe };
  /** Turns a print's clips into plain clips of its rendered sound. */
  'print.unlink': { id: string };
  'print.remove': { id: string };
}

export const printHandlers: Handlers<PrintCommands> = {
  'print.add': (draft, { print }) => {
    draft.prints[print.id] = { ...print };
  },
  'print.made': (draft, { id, made }) => {
    need(draft.prints[id], `print ${id}`).made = made && { ...made };
  },
  'print.set': (draft, { id, recipe }) => {
    need(draft.prints[id], `print ${id}`).recipe = recipe;
  },
  'print.unlink': (draft, { id }) => unlink(draft, id),
  'print.remove': (draft, { id }) => {
    need(draft.prints[id], `print ${id}`);
    removePrint(draft, id);
  },
};
