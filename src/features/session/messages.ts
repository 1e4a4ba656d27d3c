import { isCancelled } from '@/core/errors';
import { errorNotification, type Offer } from './notifications';
import type { StudioStore } from './state';

/** Messages shown at once; older ones leave. */
const MOST_SHOWN = 4;

/** Topics of messages. */
export const TOPIC = {
  saving: 'saving',
  engine: 'engine',
  room: 'room',
  change: 'change',
  late: 'late',
  sound: (assetId: string) => `sound ${assetId}`,
  file: (name: string) => `file ${name}`,
} as const;

/** Messages about what went wrong. One about a topic replaces the one before and leaves when the topic is settled. */
export class Messages {
  constructor(private readonly store: StudioStore) {}

  /** Work that the user cancelled is not reported. */
  report(error: unknown, topic?: string, offer?: Offer): void {
    if (isCancelled(error)) return;
    const others = this.shown.filter((problem) => topic === undefined || problem.topic !== topic);
    this.store.setState({ problems: [...others, errorNotification(error, topic, offer)].slice(-MOST_SHOWN) });
  }

  settled(topic: string): void {
    this.keep((problem) => problem.topic !== topic);
  }

  dismiss(problemId: number): void {
    this.keep((problem) => problem.id !== problemId);
  }

  private get shown() {
    return this.store.getState().problems;
  }

  private keep(stays: (problem: (typeof this.shown)[number]) => boolean): void {
    const problems = this.shown.filter(stays);
    if (problems.length < this.shown.length) this.store.setState({ problems });
  }
}
