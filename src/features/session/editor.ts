import { KinetikonError } from '@/core/errors';
import { applyCommand, type Command, type Step } from '@/core/session/commands';
import { redo, remember, undo } from '@/core/session/history';
import type { History } from '@/core/session/storedHistory';
import type { SessionDocument } from '@/core/session/records/document';
import { TOPIC, type Messages } from './messages';
import type { StudioStore } from './state';

/** Takes a drag up in place of the step that it would come to, as writing automation does. */
export interface DragRecorder {
  /** @param base the document before the drag, which is shown again by now */
  write(base: SessionDocument): void;
  discard(): void;
}

interface Gesture {
  base: SessionDocument;
  step: Step | null;
  recorder: DragRecorder | null;
}

/** Changes of the document: `perform` for one step, `preview` and `settle` while something is dragged. */
export class Editor {
  private gesture: Gesture | null = null;

  /** @param onKept called after every change that is to be saved, so not while something is dragged */
  constructor(
    private readonly store: StudioStore,
    private readonly messages: Messages,
    private readonly onKept: () => void,
  ) {}

  private get document(): SessionDocument {
    return this.store.getState().document;
  }

  private get history(): History {
    return this.store.getState().history;
  }

  /** The document without what is being dragged: what is saved. */
  get dragBase(): SessionDocument {
    return this.gesture?.base ?? this.document;
  }

  /** Does a command as one undoable step; false when it was refused, which is reported. */
  perform(command: Command, label: string): boolean {
    this.settle();
    try {
      const { document, step } = applyCommand(this.document, command, label);
      this.messages.settled(TOPIC.change);
      if (step.forward.length > 0) this.adopt(document, remember(this.history, step));
      return true;
    } catch (error) {
      this.messages.report(error, TOPIC.change);
      return false;
    }
  }

  /** Takes up the result of background work: it is saved, but cannot be undone. */
  record(command: Command): void {
    const { gesture } = this;
    if (gesture) gesture.base = applyCommand(gesture.base, command, '').document;
    this.adopt(applyCommand(this.document, command, '').document, this.history);
  }

  /** Replaces document and history, as by unsaved work that was found again. */
  adopt(document: SessionDocument, history: History): void {
    this.store.setState({ document, history });
    this.onKept();
  }

  /**
   * Shows and sounds a command while something is dragged; each call replaces the one before.
   * @returns why it was refused; the document then stays as the last call left it
   */
  preview(command: Command, label: string, recorder: DragRecorder | null = null): KinetikonError | null {
    this.gesture ??= { base: this.document, step: null, recorder };
    if (recorder) this.gesture.recorder = recorder;
    try {
      const { document, step } = applyCommand(this.gesture.base, command, label);
      this.gesture.step = step;
      this.store.setState({ document });
      return null;
    } catch (error) {
      if (!(error instanceof KinetikonError)) throw error;
      return error;
    }
  }

  /** Ends a drag: it becomes one step. */
  settle(): void {
    const { gesture } = this;
    this.gesture = null;
    if (!gesture) return;
    if (gesture.recorder) {
      this.store.setState({ document: gesture.base });
      gesture.recorder.write(gesture.base);
    } else if (gesture.step && gesture.step.forward.length > 0) {
      this.messages.settled(TOPIC.change);
      this.adopt(this.document, remember(this.history, gesture.step));
    }
  }

  /** Takes a drag back. */
  abandon(): void {
    const { gesture } = this;
    this.gesture = null;
    if (!gesture) return;
    gesture.recorder?.discard();
    this.store.setState({ document: gesture.base });
  }

  undo(): void {
    this.travel(undo);
  }

  redo(): void {
    this.travel(redo);
  }

  private travel(way: typeof undo): void {
    this.settle();
    try {
      const there = way(this.document, this.history);
      this.messages.settled(TOPIC.change);
      if (there) this.adopt(there.document, there.history);
    } catch (error) {
      this.messages.report(error, TOPIC.change);
    }
  }
}
