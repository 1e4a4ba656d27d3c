import { effectById } from '@/core/effects/registry';
import type { Sketched } from '@/core/session/recipes/recipe';

/** Size of a strip in the drawing, in pixels. */
const HEIGHT = 52;
const GAP = 8;
const ACROSS = 44;

const WAYS = { send: 'a send', key: 'a key', print: 'made from it' } as const;

const effectsOf = ({ effects, kind }: Sketched) =>
  effects.length > 0 ? effects.map((id) => effectById(id).name).join(', ') : kind;
const fedBy = (strip: Sketched) => strip.fedBy.map((way) => WAYS[way]).join(' and ');

/** Drawing of a recipe's additions: the voice at the left, new strips at the right, and how it reaches them. */
export function RecipePicture({ voice, strips: all }: { voice: string; strips: readonly Sketched[] }) {
  const own = all.filter(({ kind }) => kind === 'voice').flatMap(({ effects }) => effects);
  const strips = all.filter(({ kind }) => kind !== 'voice');
  const whole = strips.length * (HEIGHT + GAP) - GAP;
  const middle = (n: number) => n * (HEIGHT + GAP) + HEIGHT / 2;
  const given = own.map((id) => effectById(id).name).join(', ');
  const words = [
    ...(own.length > 0 ? [`${voice} gets ${given}`] : []),
    ...strips.map((strip) => `From ${voice} to ${strip.name} (${effectsOf(strip)}) by ${fedBy(strip)}`),
  ];
  return (
    <figure className="recipe-picture" role="img" aria-label={words.join('; ')}>
      <div className="recipe-strip">
        <b title={voice}>{voice}</b>
        <small className={own.length > 0 ? 'recipe-given' : undefined}>{own.length > 0 ? `+ ${given}` : 'track'}</small>
      </div>
      <svg width={ACROSS} height={whole} aria-hidden="true">
        {strips.flatMap((strip, n) =>
          strip.fedBy.map((way, at) => {
            const y = middle(n) + (at - (strip.fedBy.length - 1) / 2) * 14;
            return (
              <path
                key={`${n} ${way}`}
                className={`recipe-way recipe-way-${way}`}
                d={`M0 ${whole / 2}C${ACROSS / 2} ${whole / 2} ${ACROSS / 2} ${y} ${ACROSS} ${y}`}
              />
            );
          }),
        )}
      </svg>
      <div className="recipe-new" style={{ gridAutoRows: HEIGHT, gap: GAP }}>
        {strips.map((strip) => (
          <div key={strip.name} className="recipe-strip recipe-strip-new">
            <b title={strip.name}>{strip.name}</b>
            <small>{effectsOf(strip)}</small>
            <small>by {fedBy(strip)}</small>
          </div>
        ))}
      </div>
    </figure>
  );
}
