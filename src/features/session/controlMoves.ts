import type { Parameter, ParameterValue } from '@/core/effects/spec';
import type { KinetikonError } from '@/core/errors';
import { clamp } from '@/core/math/clamp';
import { setValueOf } from '@/core/session/lanes';
import type { SessionDocument } from '@/core/session/records/document';
import type { EngineClient } from '@/runtime/client/engineClient';
import { addPoint, overrideCommand, takeCommand, type Take, type Turn } from './automationRecording';
import type { DragRecorder, Editor } from './editor';
import { newId } from './newId';
import { chosenStrips } from './selection';
import type { StudioStore } from './state';
import type { Transport } from './transport';

/**
 * Controls moved by hand. While writing is armed and the session plays, a move is written to a lane; otherwise a lane
 * that moved the control is off until the control is given back to it.
 */
export class ControlMoves {
  /** Takes being written, one for each control that is moved. */
  private takes: Take[] = [];

  private readonly recorder: DragRecorder = {
    write: (base) => this.writeTakes(base),
    discard: () => {
      this.takes = [];
    },
  };

  constructor(
    private readonly store: StudioStore,
    private readonly editor: Editor,
    private readonly engine: Pick<EngineClient, 'playing'>,
    private readonly transport: Pick<Transport, 'heardBeat'>,
  ) {}

  /** Gives a parameter a lane that begins with the value its control is set to. */
  addLane(id: string, ownerId: string, parameter: Parameter): boolean {
    const value = setValueOf(this.store.getState().document, ownerId, parameter);
    const points = [{ beat: 0, value, shape: 'straight' as const, bend: 0 }];
    return this.editor.perform(
      {
        type: 'lane.add',
        lane: { id, ownerId, parameter: parameter.id, on: true, points, mirrorOf: null, mirrorAmount: 100 },
      },
      `Automate ${parameter.name}`,
    );
  }

  /**
   * Moves one control, and that of all strips or clips which are chosen beside its owner: figures by as much, others to the
   * same; ended by `settle` like any drag.
   */
  turn(ownerId: string, parameter: Parameter, value: ParameterValue, label: string): KinetikonError | null {
    const mates = this.matesOf(ownerId);
    const base = this.editor.dragBase;
    const before = setValueOf(base, ownerId, parameter);
    const turns = mates.flatMap((mateId): Turn[] => {
      const own = setValueOf(base, mateId, parameter);
      if (parameter.kind !== 'number' || ![own, before, value].every((one) => typeof one === 'number'))
        return [{ ownerId: mateId, parameter, value }];
      // A level at its minimum is not raised with the others.
      if (parameter.silentAtMin && own === parameter.min) return [];
      const moved = Number(own) + Number(value) - Number(before);
      return [{ ownerId: mateId, parameter, value: clamp(parameter.min, parameter.max, Number(moved.toFixed(4))) }];
    });
    const all = mates.length === 0 ? label : `${label}, and of ${mates.length} more`;
    return this.turnAll([{ ownerId, parameter, value }, ...turns], all);
  }

  /** Strips or clips that are chosen beside one of them. */
  private matesOf(ownerId: string): string[] {
    const { clipIds, ...state } = this.store.getState();
    const chosen = [clipIds, chosenStrips(state)].find((ids) => ids.includes(ownerId)) ?? [];
    return chosen.filter((id) => id !== ownerId);
  }

  /** Moves several controls by one drag. */
  turnAll(turns: readonly Turn[], label: string): KinetikonError | null {
    const isWriting = this.store.getState().armed && this.engine.playing;
    if (isWriting) this.addPoints(turns);
    const commands = turns.map(({ ownerId, parameter, value }) =>
      overrideCommand(this.editor.dragBase, ownerId, parameter.id, value),
    );
    const command = commands.length === 1 ? commands[0]! : { type: 'all' as const, commands };
    return this.editor.preview(command, label, isWriting ? this.recorder : null);
  }

  /** Moves a control in one go, for switches and choices. */
  turnOnce(ownerId: string, parameter: Parameter, value: ParameterValue, label: string): void {
    this.editor.settle();
    this.turn(ownerId, parameter, value, label);
    this.editor.settle();
  }

  private addPoints(turns: readonly Turn[]): void {
    const beat = this.transport.heardBeat;
    const { takes } = this;
    const same =
      turns.length === takes.length &&
      turns.every(({ ownerId, parameter }, n) => {
        const take = takes[n]!;
        return take.ownerId === ownerId && take.parameter.id === parameter.id;
      });
    // When a loop starts over, what was played in the round before is written first.
    if (takes.length > 0 && (!same || beat < takes[0]!.points.at(-1)!.beat)) this.editor.settle();
    if (this.takes.length === 0) {
      this.takes = turns.map(({ ownerId, parameter }) => ({ ownerId, parameter, points: [] }));
    }
    turns.forEach(({ value }, n) => addPoint(this.takes[n]!, beat, value));
  }

  /** Turns takes into points of lanes; the controls themselves stay where they were. */
  private writeTakes(base: SessionDocument): void {
    const { takes } = this;
    this.takes = [];
    const { loopOn, loopStartBeat, loopEndBeat } = base.session;
    const punch = this.store.getState().punch && loopOn ? { from: loopStartBeat, to: loopEndBeat } : null;
    const commands = takes.flatMap((take) => takeCommand(base, take, punch, newId()) ?? []);
    const names = [...new Set(takes.map(({ parameter }) => parameter.name))].join(' and ');
    if (commands.length > 0) this.editor.perform({ type: 'all', commands }, `Write ${names}`);
  }
}
