/** Kinds of sound files: a new one is a row here, a reader and a scanner by its first bytes, and a writer if it is written. */
export const CONTAINERS = {
  wav: { name: 'WAV', magic: 'RIFF', extensions: ['wav', 'wave'], mediaTypes: ['audio/wav', 'audio/x-wav'] },
  flac: { name: 'FLAC', magic: 'fLaC', extensions: ['flac'], mediaTypes: ['audio/flac'] },
} as const satisfies Record<string, Container>;

interface Container {
  readonly name: string;
  /** The first four bytes. */
  readonly magic: string;
  /** The first is that of files that are written. */
  readonly extensions: readonly string[];
  readonly mediaTypes: readonly string[];
}

export type ContainerId = keyof typeof CONTAINERS;

/** Formats that sounds are written in, as they are offered. */
export const OUTPUT_FORMATS = [
  { id: '24', name: 'WAV, 24 bit', container: 'wav', passesFullScale: false, takesFields: true },
  { id: '16', name: 'WAV, 16 bit, dithered', container: 'wav', passesFullScale: false, takesFields: false },
  { id: '32f', name: 'WAV, 32 bit floating point', container: 'wav', passesFullScale: true, takesFields: true },
  { id: 'flac', name: 'FLAC, 24 bit', container: 'flac', passesFullScale: false, takesFields: false },
] as const satisfies readonly OutputFormat[];

interface OutputFormat {
  readonly id: string;
  readonly name: string;
  readonly container: ContainerId;
  /** Samples over full scale are kept. */
  readonly passesFullScale: boolean;
  /** It is offered for sound fields, which have 4 or 16 channels. */
  readonly takesFields: boolean;
}

export type OutputFormatId = (typeof OUTPUT_FORMATS)[number]['id'];

export const outputFormat = (id: OutputFormatId) => OUTPUT_FORMATS.find((one) => one.id === id)!;

const IDS = Object.keys(CONTAINERS) as ContainerId[];

/** The container that a file is named after; undefined for other names. */
export function containerOfName(path: string): ContainerId | undefined {
  const extension = /\.([^.]*)$/.exec(path)?.[1]?.toLowerCase();
  return IDS.find((id) => (CONTAINERS[id].extensions as readonly string[]).includes(extension ?? ''));
}

/** The container that a file begins as; undefined for other files. */
export function containerOf(bytes: Uint8Array): ContainerId | undefined {
  const magic = String.fromCharCode(...bytes.subarray(0, 4));
  return IDS.find((id) => CONTAINERS[id].magic === magic);
}

export const mediaTypeOf = (id: ContainerId): string => CONTAINERS[id].mediaTypes[0];
export const extensionOf = (id: ContainerId): string => CONTAINERS[id].extensions[0];

const containers: readonly Container[] = Object.values(CONTAINERS);

/** Files that are read, as a picker takes them. */
export const ACCEPTED_SOUNDS = containers
  .flatMap(({ extensions, mediaTypes }) => [...extensions.map((one) => `.${one}`), ...mediaTypes])
  .join();

/** Names of all containers for a sentence: "WAV or FLAC". */
export const containerNames = (word: 'or' | 'nor') => containers.map(({ name }) => name).join(` ${word} `);
