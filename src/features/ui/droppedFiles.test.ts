/** @jest-environment jsdom */
import { droppedFiles } from './droppedFiles';

type Tree = { readonly [name: string]: Tree | File };

const file = (name: string) => new File(['x'], name);

/** An entry of a drop, its folders giving two entries at a time as a browser gives a hundred. */
function entryOf(name: string, content: Tree | File, under = ''): FileSystemEntry {
  const fullPath = `${under}/${name}`;
  if (content instanceof File)
    return { name, fullPath, isDirectory: false, file: (done: (file: File) => void) => done(content) } as never;
  const entries = Object.entries(content).map(([one, inner]) => entryOf(one, inner, fullPath));
  const createReader = () => {
    let at = 0;
    return { readEntries: (done: (some: FileSystemEntry[]) => void) => done(entries.slice(at, (at += 2))) };
  };
  return { name, fullPath, isDirectory: true, createReader } as never;
}

const drop = (tree: Tree) =>
  droppedFiles({
    files: Object.values(tree).filter((one) => one instanceof File) as unknown as FileList,
    items: Object.entries(tree).map(([name, content]) => ({
      webkitGetAsEntry: () => entryOf(name, content),
    })) as unknown as DataTransferItemList,
  });

const names = async (tree: Tree) => (await drop(tree)).map(({ name }) => name);

it('takes files as they are, in the order of their numbers', async () => {
  const tree = { 'take 10.wav': file('take 10.wav'), 'take 2.wav': file('take 2.wav'), 'notes.txt': file('notes.txt') };
  expect(await names(tree)).toEqual(['notes.txt', 'take 2.wav', 'take 10.wav']);
});

it('takes the sounds of folders and of those in them, and nothing else that lies there', async () => {
  const tree = {
    stems: {
      'b.flac': file('b.flac'),
      'read me.txt': file('read me.txt'),
      '._b.flac': file('._b.flac'),
      a: { 'z.wav': file('z.wav'), 'y.mp3': file('y.mp3'), deep: { 'x.ogg': file('x.ogg') } },
    },
    'alone.wav': file('alone.wav'),
  };
  expect(await names(tree)).toEqual(['alone.wav', 'x.ogg', 'y.mp3', 'z.wav', 'b.flac']);
});

it('finds nothing in an empty folder', async () => {
  expect(await names({ empty: {} })).toEqual([]);
});
