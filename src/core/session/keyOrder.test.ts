import { readFileSync } from 'node:fs';
import { asStored, shuffled } from '../../../test/support/keyOrder';
import { SEED, thinned } from '../../../test/support/sweep';
import { SeededRandom } from '../math/random';
import { applyCommand, type Command } from './commands';
import { compileBounce } from './compile/bounce';
import { compile } from './compile/compiler';
import { validateDocument } from './document';
import { printWork } from './printing';
import { newDocument, newSend } from './records/factories';
import type { SessionDocument } from './records/document';

/** Two returns that feed a third, a track that feeds all of them, and a compressor that listens to two of them. */
function crossing(): SessionDocument {
  const commands: Command[] = [
    { type: 'track.add', id: 'voice', name: 'Voice' },
    ...['far', 'b', 'between'].map((id): Command => ({ type: 'return.add', id, name: id, role: 'return' })),
    { type: 'insert.add', stripId: 'far', id: 'squeeze', effect: 'compressor', index: 0 },
    { type: 'insert.input', id: 'squeeze', slot: 'key', from: { stripId: 'voice', tap: 'beforeFader' } },
    ...[
      ['voice', 'between'],
      ['b', 'far'],
      ['voice', 'far'],
      ['between', 'far'],
      ['voice', 'b'],
    ].map(([from, to]): Command => ({ type: 'send.add', send: newSend(`${to}-from-${from}`, from!, to!) })),
  ];
  return applyCommand(newDocument('Crossing'), { type: 'all', commands }, '').document;
}

const demo = () => validateDocument(JSON.parse(readFileSync('demo/session.json', 'utf8')));

/** Copies of a document with their keys in other orders. */
function reorderings(document: SessionDocument): SessionDocument[] {
  const random = new SeededRandom(SEED);
  return [asStored(document), ...Array.from({ length: thinned(20) }, () => shuffled(document, random))];
}

describe('a document with its keys in another order', () => {
  it.each([
    ['the demo', demo],
    ['two returns that feed a third', crossing],
  ])('becomes the same plan: %s', (_, made) => {
    const text = (plan: unknown) =>
      JSON.stringify(plan, (_, one: unknown) => (ArrayBuffer.isView(one) ? String(one) : one));
    const plans = (one: SessionDocument) => text([compile(one), compileBounce(one, 'field1')]);
    const document = made();
    for (const order of reorderings(document)) expect(plans(order)).toBe(plans(document));
  });

  it('leaves every print as fresh as it was', () => {
    const document = demo();
    const fingerprints = (one: SessionDocument) =>
      Object.keys(document.prints).map((id) => printWork(one, one.prints[id]!)?.fingerprint);
    expect(new Set(fingerprints(document)).size).toBe(Object.keys(document.prints).length);
    expect(fingerprints(document).length).toBeGreaterThan(1);
    for (const order of reorderings(document)) expect(fingerprints(order)).toEqual(fingerprints(document));
  });
});
