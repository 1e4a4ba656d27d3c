import { channelOf } from '@/core/session/records/queries';
import { newId } from './newId';
import type { Studio } from './studio';

/** Prints a track or a return with its effects and lets the print play in their place. */
export async function freeze(studio: Studio, stripId: string): Promise<void> {
  const strip = channelOf(studio.state.document, stripId);
  if (!strip) return;
  const print = { id: newId(), recipe: { kind: 'strip' as const, stripId } };
  const done = await studio.prints.render(print, `Freezing ${strip.name}`);
  if (!done) return;
  studio.editor.perform(
    {
      type: 'all',
      commands: [
        { type: 'asset.add', asset: { ...done.asset } },
        { type: 'print.add', print: { ...print, made: done.made } },
        { type: 'strip.set', id: stripId, values: { frozen: print.id } },
      ],
    },
    `Freeze ${strip.name}`,
  );
}

/** Lets the effects work again; the sound of the print stays in the library. */
export function thaw(studio: Studio, stripId: string): void {
  const strip = channelOf(studio.state.document, stripId);
  if (strip?.frozen) studio.editor.perform({ type: 'print.remove', id: strip.frozen }, `Thaw ${strip.name}`);
}
