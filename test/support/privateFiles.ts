/** A browser's locks, shared and exclusive, in the order in which they are asked for. */
export function standInLocks(): Pick<LockManager, 'request'> {
  interface Held {
    readonly mode: LockMode;
    readonly over: Promise<unknown>;
  }
  const held = new Map<string, Held[]>();
  return {
    request: (async (name: string, first: unknown, second?: unknown) => {
      const [options, work] = (second === undefined ? [{}, first] : [first, second]) as [
        LockOptions,
        (lock: unknown) => unknown,
      ];
      const mode = options.mode ?? 'exclusive';
      const stands = () => (held.get(name) ?? []).filter((one) => mode === 'exclusive' || one.mode === 'exclusive');
      if (options.ifAvailable && stands().length > 0) return work(null);
      while (stands().length > 0) await Promise.allSettled(stands().map(({ over }) => over));
      const own = { mode, over: (async () => work({ name }))() };
      held.set(name, [...(held.get(name) ?? []), own]);
      try {
        return await own.over;
      } finally {
        held.set(
          name,
          held.get(name)!.filter((one) => one !== own),
        );
      }
    }) as never,
  };
}

interface Kept {
  bytes: Uint8Array<ArrayBuffer>;
  lastModified: number;
  /** What it counts as, where it is told to be larger than it is. */
  size?: number;
  /** Its bytes cannot be had: it was removed after it was found. */
  isGone?: boolean;
}

/** A folder of a browser's private files. What is written is there once the writing is closed. */
export class StandInFolder {
  readonly files = new Map<string, Kept>();
  /** Writings after which the disk is full. */
  room = Infinity;
  private clock = 0;

  async getDirectoryHandle(): Promise<this> {
    return this;
  }

  async getFileHandle(name: string, { create = false } = {}): Promise<unknown> {
    if (!this.files.has(name)) {
      if (!create) throw new DOMException('no such file', 'NotFoundError');
      this.files.set(name, { bytes: new Uint8Array(), lastModified: ++this.clock });
    }
    return this.handle(name);
  }

  private handle(name: string) {
    return {
      kind: 'file',
      getFile: async () => {
        const { bytes, lastModified, size, isGone } = this.files.get(name)!;
        const file = Object.assign(new Blob([bytes]), { lastModified });
        if (isGone) file.slice = () => ({ arrayBuffer: () => Promise.reject(new Error('gone')) }) as unknown as Blob;
        return size === undefined ? file : Object.defineProperty(file, 'size', { value: size });
      },
      createWritable: async () => {
        let written = new Blob([]);
        return {
          write: async (part: Uint8Array<ArrayBuffer> | { data: Uint8Array<ArrayBuffer> }) => {
            if (this.room-- <= 0) throw new DOMException('the disk is full', 'QuotaExceededError');
            written =
              part instanceof Uint8Array
                ? new Blob([written, part])
                : new Blob([part.data, written.slice(part.data.length)]);
          },
          close: async () => {
            const bytes = new Uint8Array(await written.arrayBuffer());
            this.files.set(name, { bytes, lastModified: ++this.clock });
          },
          abort: async () => {},
        };
      },
    };
  }

  async removeEntry(name: string): Promise<void> {
    if (!this.files.delete(name)) throw new DOMException('no such file', 'NotFoundError');
  }

  async *entries(): AsyncGenerator<[string, unknown]> {
    for (const name of [...this.files.keys()]) yield [name, this.handle(name)];
  }
}
