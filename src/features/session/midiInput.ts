import type { Studio } from './studio';

const NOTE_OFF = 0x80;
const NOTE_ON = 0x90;
const CONTROLLER = 0xb0;
/** A controller that has not moved for so long has been let go: its movement is one step. */
const REST_MS = 400;

/** The note or controller of a MIDI message; null for other messages. */
export function readMessage(
  data: ArrayLike<number>,
):
  | { kind: 'noteOn'; key: number; velocity: number }
  | { kind: 'noteOff'; key: number }
  | { kind: 'controller'; controller: number; part: number }
  | null {
  const [status = 0, first = 0, second = 0] = Array.from(data);
  const message = status & 0xf0;
  if (message === NOTE_ON && second > 0) return { kind: 'noteOn', key: first, velocity: second };
  if (message === NOTE_OFF || message === NOTE_ON) return { kind: 'noteOff', key: first };
  if (message === CONTROLLER) return { kind: 'controller', controller: first, part: second / 127 };
  return null;
}

/** MIDI input: keys are played, controllers move the modulators that have learnt them. */
export class MidiInput {
  private access: MIDIAccess | null = null;
  private resting: ReturnType<typeof setTimeout> | undefined;

  constructor(private readonly studio: Studio) {}

  /** Names of the devices that are heard. */
  get devices(): string[] {
    return [...(this.access?.inputs.values() ?? [])].map(({ name }) => name ?? 'a device without a name');
  }

  /**
   * Asks the browser for its devices, and listens to them and to those that come.
   * @returns why that cannot be; null when it listens
   */
  async open(onDevices: () => void): Promise<string | null> {
    if (!('requestMIDIAccess' in navigator)) return 'This browser has no MIDI.';
    try {
      this.access = await navigator.requestMIDIAccess();
    } catch {
      return 'MIDI was not allowed.';
    }
    const listen = () => {
      for (const input of this.access!.inputs.values()) input.onmidimessage = ({ data }) => data && this.take(data);
      onDevices();
    };
    this.access.onstatechange = listen;
    listen();
    return null;
  }

  close(): void {
    if (!this.access) return;
    this.access.onstatechange = null;
    for (const input of this.access.inputs.values()) input.onmidimessage = null;
    this.access = null;
  }

  /** Takes up a message, from a device or from the keyboard on the screen. */
  take(data: ArrayLike<number>): void {
    const message = readMessage(data);
    const { keys } = this.studio;
    if (message?.kind === 'noteOn') keys.press(message.key, message.velocity);
    else if (message?.kind === 'noteOff') keys.release(message.key);
    else if (message) this.move(message.controller, message.part);
  }

  private move(controller: number, part: number): void {
    const { studio } = this;
    const { learning, document } = studio.state;
    if (learning !== null && document.modulators[learning]) {
      studio.set({ learning: null });
      studio.editor.perform({ type: 'modulator.set', id: learning, values: { controller } }, 'Learn a controller');
    }
    const moved = Object.values(studio.state.document.modulators).filter(
      (one) => one.kind === 'hand' && one.controller === controller,
    );
    if (moved.length === 0) return;
    const commands = moved.map(({ id }) => ({ type: 'modulator.set' as const, id, values: { handPart: part } }));
    studio.editor.preview({ type: 'all', commands }, `Move ${moved[0]!.name}`);
    clearTimeout(this.resting);
    this.resting = setTimeout(() => studio.editor.settle(), REST_MS);
  }
}
