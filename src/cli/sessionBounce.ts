import { outputFormat } from '@/core/formats/soundFormats';
import { validateDocument } from '@/core/session/document';
import { endBeat } from '@/core/session/records/queries';
import { RATES_HZ } from '@/core/session/records/session';
import { isId } from '@/core/session/fields';
import type { RenderRequest } from '@/core/session/renderRequests';
import { runRequest } from '@/server/renders/runRequest';
import type { BounceFacts } from '@/core/protocol/renders';
import { numberBetween, one, parseArguments, usage } from './arguments';
import { madeWhole } from './files';
import { outputOf } from './output';
import { DATA, openData } from './studioData';
import type { Terminal } from './terminal';

/** `bounce`: a session into a sound file, the same bytes as the interface's. */
export async function bounceSession(args: readonly string[], terminal: Terminal): Promise<void> {
  const options = parseArguments(args, {
    ...DATA,
    '-o': true,
    '--format': true,
    '--from': true,
    '--to': true,
    '--rate': true,
    '--json': false,
  });
  const [id, ...others] = options.positional;
  if (id === undefined || !isId(id)) throw usage('bounce needs the id of a session: the last part of its address.');
  if (others.length > 0) throw usage(`bounce takes one session, not also "${others[0]}".`);
  const { output, format } = outputOf(options, 'bounce');
  const rate = one(options, '--rate');
  if (rate !== undefined && !(RATES_HZ as readonly number[]).includes(Number(rate))) {
    throw usage(`--rate takes ${RATES_HZ.join(', ')} Hz, not "${rate}".`);
  }
  const data = await openData(options);
  try {
    const stored = validateDocument((await data.session(id)).document);
    const document =
      rate === undefined
        ? stored
        : { ...stored, session: { ...stored.session, sampleRateHz: Number(rate) as (typeof RATES_HZ)[number] } };
    const beat = (name: string, byDefault: number) => {
      const text = one(options, name);
      return text === undefined ? byDefault : numberBetween(name, text, 0, 100000, 'beats');
    };
    const [fromBeat, toBeat] = [beat('--from', 0), beat('--to', endBeat(document))];
    if (toBeat <= fromBeat) throw usage(`--to lies behind --from: ${toBeat} does not lie behind ${fromBeat}.`);
    const delivery = document.session.stage;
    const request: RenderRequest = {
      kind: 'bounce',
      document,
      delivery,
      fromBeat,
      toBeat,
      tailSeconds: 'auto',
      format,
      gainDb: 0,
    };
    const fileOf = async (assetId: string) => ({
      ...(await data.sound(assetId)),
      name: document.assets[assetId]?.name ?? assetId,
    });
    const onProgress = (done: number) => terminal.progress(done);
    const { facts } = await madeWhole(output, (path) => runRequest(request, fileOf, path, { onProgress }));
    terminal.progress(1);
    const { clipped } = facts as BounceFacts;
    if (one(options, '--json') !== undefined) terminal.out(JSON.stringify(facts, null, 2));
    else if (clipped > 0 && !outputFormat(format).passesFullScale) {
      terminal.note(`${output}: ${clipped} samples passed full scale and are cut off there; --format 32f keeps them.`);
    }
  } finally {
    await data.close();
  }
}
