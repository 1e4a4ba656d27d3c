import { isMp3Frame } from './mpeg';
import { oggCodec } from './ogg';

const letters = (bytes: Uint8Array, from: number, to: number) => String.fromCharCode(...bytes.subarray(from, to));

/** Kinds of sound files: a new one is a row here, a reader, and a writer if it is written. */
export const CONTAINERS = {
  wav: {
    name: 'WAV',
    extensions: ['wav', 'wave', 'bwf', 'rf64', 'bw64'],
    mediaTypes: ['audio/wav', 'audio/x-wav'],
    begins: (bytes) => ['RIFF', 'RF64', 'BW64'].includes(letters(bytes, 0, 4)) && letters(bytes, 8, 12) === 'WAVE',
  },
  aiff: {
    name: 'AIFF',
    extensions: ['aif', 'aiff', 'aifc'],
    mediaTypes: ['audio/aiff', 'audio/x-aiff'],
    begins: (bytes) => letters(bytes, 0, 4) === 'FORM' && ['AIFF', 'AIFC'].includes(letters(bytes, 8, 12)),
  },
  flac: {
    name: 'FLAC',
    extensions: ['flac'],
    mediaTypes: ['audio/flac'],
    begins: (bytes) => letters(bytes, 0, 4) === 'fLaC',
  },
  mp3: {
    name: 'MP3',
    extensions: ['mp3'],
    mediaTypes: ['audio/mpeg'],
    begins: (bytes) => letters(bytes, 0, 3) === 'ID3' || isMp3Frame(bytes),
  },
  vorbis: {
    name: 'Ogg Vorbis',
    extensions: ['ogg', 'oga'],
    mediaTypes: ['audio/ogg'],
    begins: (bytes) => letters(bytes, 0, 4) === 'OggS' && oggCodec(bytes) === 'vorbis',
  },
  opus: {
    name: 'Opus',
    extensions: ['opus'],
    mediaTypes: ['audio/ogg; codecs=opus', 'audio/opus'],
    begins: (bytes) => letters(bytes, 0, 4) === 'OggS' && oggCodec(bytes) === 'opus',
  },
} as const satisfies Record<string, Container>;

interface Container {
  readonly name: string;
  /** The first is that of files that are written. */
  readonly extensions: readonly string[];
  readonly mediaTypes: readonly string[];
  /** Tells from the first bytes of a file, up to HEAD_BYTES. */
  readonly begins: (bytes: Uint8Array) => boolean;
}

/** Bytes of a file that are enough to tell its kind. */
export const HEAD_BYTES = 64;

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

function isNamedAfter({ extensions }: Container, path: string): boolean {
  const extension = /\.([^.]*)$/.exec(path)?.[1]?.toLowerCase();
  return extensions.includes(extension ?? '');
}

/** The container that a file is named after; undefined for other names. */
export function containerOfName(path: string): ContainerId | undefined {
  return IDS.find((id) => isNamedAfter(CONTAINERS[id], path));
}

/** The container that a file begins as; undefined for other files. */
export const containerOf = (bytes: Uint8Array): ContainerId | undefined =>
  IDS.find((id) => CONTAINERS[id].begins(bytes));

/** AAC, which a browser alone can read: there it becomes WAV when it comes in. */
export const AAC = {
  name: 'AAC',
  extensions: ['m4a', 'mp4', 'aac'],
  mediaTypes: ['audio/mp4', 'audio/aac'],
  begins: (bytes) => letters(bytes, 4, 8) === 'ftyp' || (bytes[0] === 255 && (bytes[1]! & 0xf6) === 0xf0),
} as const satisfies Container;

/** Name of a kind of file that is recognised and not read. */
export function knownOf(bytes: Uint8Array): string | undefined {
  if (letters(bytes, 0, 4) === 'OggS')
    return oggCodec(bytes) === 'flac' ? 'FLAC in Ogg' : 'an Ogg file of another kind';
  return letters(bytes, 0, 4) === 'wvpk' ? 'WavPack' : undefined;
}

export const mediaTypeOf = (id: ContainerId): string => CONTAINERS[id].mediaTypes[0];
export const extensionOf = (id: ContainerId): string => CONTAINERS[id].extensions[0];

const containers: readonly Container[] = Object.values(CONTAINERS);

/** True for the name of a file that comes in. */
export const isSoundName = (path: string): boolean => containerOfName(path) !== undefined || isNamedAfter(AAC, path);

/** Files that are read, as a picker takes them. */
export const ACCEPTED_SOUNDS = [...containers, AAC]
  .flatMap(({ extensions, mediaTypes }) => [...extensions.map((one) => `.${one}`), ...mediaTypes])
  // A picker takes no parameters.
  .filter((type) => !type.includes(';'))
  .join();

const listed = (type: 'disjunction' | 'conjunction', some: readonly Container[]) =>
  new Intl.ListFormat('en-GB', { type }).format(some.map(({ name }) => name));

/** What is read everywhere: "WAV, FLAC and Opus". */
export const CONTAINER_NAMES = listed('conjunction', containers);

/** What a browser takes: "WAV, FLAC, Opus or AAC". */
export const TAKEN_NAMES = listed('disjunction', [...containers, AAC]);
