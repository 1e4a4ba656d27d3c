import Form from 'react-bootstrap/Form';
import { readFigure } from '@/core/effects/units';
import { KinetikonError } from '@/core/errors';
import { FADE_SHAPES } from '@/core/math/fades';
import { fadedTogether, type Fades } from '@/core/session/clipCuts';
import type { Clip } from '@/core/session/records/clips';
import { TOPIC } from '../session/messages';
import { useStudio } from '../session/StudioContext';
import { EditableText } from '../ui/EditableText';

interface Props {
  /** At least one. */
  readonly clips: readonly Clip[];
  /** The clip, or how many. */
  readonly name: string;
}

/** Lengths and shapes of the fades of clips; what is set goes for all of them, as far as each is long. */
export function FadeFields({ clips, name }: Props) {
  const studio = useStudio();
  const set = (fades: Partial<Fades>) =>
    studio.editor.perform(
      fadedTogether(
        studio.state.document,
        clips.map(({ id }) => id),
        fades,
      ),
      `Fade ${name}`,
    );
  const type = (id: 'fadeIn' | 'fadeOut', text: string) => {
    const ms = readFigure('ms', text);
    const other = id === 'fadeIn' ? 'fadeOutSeconds' : 'fadeInSeconds';
    const most = Math.max(...clips.map((clip) => clip.lengthSeconds - clip[other]));
    if (ms !== undefined && ms >= 0 && ms / 1000 <= most + 1e-9) return set({ [`${id}Seconds`]: ms / 1000 });
    studio.messages.report(
      new KinetikonError('parameter.range', `A fade takes 0 to ${Math.floor(most * 1000)} ms, not "${text}".`, {
        kept: 'Nothing was changed.',
      }),
      TOPIC.change,
    );
  };
  return (['fadeIn', 'fadeOut'] as const).map((id) => {
    const way = id === 'fadeIn' ? 'in' : 'out';
    const lengths = new Set(clips.map((clip) => Math.round(clip[`${id}Seconds`] * 1000)));
    const shapes = new Set(clips.map((clip) => clip[`${id}Shape`]));
    return (
      <div key={id} className="lane-field">
        <span>fade {way}</span>
        <EditableText
          label={`Fade ${way} of ${name}`}
          text={lengths.size === 1 ? `${[...lengths][0]} ms` : 'several'}
          width={58}
          onTyped={(text) => type(id, text)}
        />
        <Form.Select
          size="sm"
          aria-label={`Shape of fade ${way}`}
          value={shapes.size === 1 ? [...shapes][0] : ''}
          onChange={(event) => set({ [`${id}Shape`]: event.target.value })}
        >
          {shapes.size > 1 && (
            <option value="" disabled>
              several
            </option>
          )}
          {FADE_SHAPES.map((shape) => (
            <option key={shape}>{shape}</option>
          ))}
        </Form.Select>
      </div>
    );
  });
}
