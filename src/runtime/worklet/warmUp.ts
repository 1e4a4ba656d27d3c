import { Engine } from '@/core/engine/engine';
import type { Plan, SoundSource } from '@/core/engine/plan';
import { LIVE_BLOCK, WARM_STEPS } from '@/core/protocol/worklet';

/** Blocks that are worked through in a step, so that a press of play never waits long. */
const BLOCKS = 8;

/**
 * Plays the beginning of a plan to nobody: code that has run often is quick, and code that runs for the first time can
 * take longer than a block may.
 */
export class WarmUp {
  private engine: Engine | null = null;
  private steps = 0;
  private readonly left = new Float32Array(LIVE_BLOCK);
  private readonly right = new Float32Array(LIVE_BLOCK);

  /** @returns whether there is more to do */
  step(plan: Plan, samples: ReadonlyMap<string, SoundSource>): boolean {
    if (this.steps >= WARM_STEPS) return false;
    if (!this.engine) {
      this.engine = new Engine(plan.sampleRate);
      for (const [id, sound] of samples) this.engine.setSamples(id, sound);
      this.engine.applyPlan(plan);
      this.engine.play();
    }
    for (let block = 0; block < BLOCKS; block++) this.engine.renderBlock(this.left, this.right, LIVE_BLOCK);
    this.steps++;
    if (this.steps >= WARM_STEPS) this.end();
    return this.steps < WARM_STEPS;
  }

  /** Gives back what it held; it does not begin again. */
  end(): void {
    this.engine?.dispose();
    this.engine = null;
    this.steps = WARM_STEPS;
  }
}
