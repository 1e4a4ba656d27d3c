import { isSoundName } from '@/core/formats/soundFormats';

/** Files that are taken from one drop. */
const MOST_FILES = 1000;

const byPath = new Intl.Collator('en', { numeric: true });

interface Found {
  readonly path: string;
  readonly entry: FileSystemFileEntry;
}

/** A folder gives its entries some at a time. */
async function entriesOf(folder: FileSystemDirectoryEntry): Promise<FileSystemEntry[]> {
  const reader = folder.createReader();
  const all: FileSystemEntry[] = [];
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
    if (some.length === 0) return all;
    all.push(...some);
  }
}

async function soundsUnder(folder: FileSystemDirectoryEntry, found: Found[]): Promise<void> {
  for (const entry of await entriesOf(folder)) {
    if (found.length >= MOST_FILES) return;
    if (entry.isDirectory) await soundsUnder(entry as FileSystemDirectoryEntry, found);
    else if (isSoundName(entry.name) && !entry.name.startsWith('.'))
      found.push({ path: entry.fullPath, entry: entry as FileSystemFileEntry });
  }
}

/** Files that are dropped, and the sound files in folders that are dropped, by their paths in the order of people: 2 before 10. */
export async function droppedFiles(data: Pick<DataTransfer, 'items' | 'files'>): Promise<File[]> {
  // What is dropped is only there until the first wait.
  const files = [...data.files];
  const entries = [...data.items].flatMap((item) => item.webkitGetAsEntry?.() ?? []);
  if (!entries.some((entry) => entry.isDirectory)) return files.sort((a, b) => byPath.compare(a.name, b.name));
  const found: Found[] = [];
  for (const entry of entries) {
    if (entry.isDirectory) await soundsUnder(entry as FileSystemDirectoryEntry, found);
    else found.push({ path: entry.fullPath, entry: entry as FileSystemFileEntry });
  }
  found.sort((a, b) => byPath.compare(a.path, b.path));
  return Promise.all(found.map(({ entry }) => new Promise<File>((resolve, reject) => entry.file(resolve, reject))));
}
