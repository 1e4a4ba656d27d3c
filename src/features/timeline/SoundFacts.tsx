'use client';

import Button from 'react-bootstrap/Button';
import type { SoundAbout } from '@/core/formats/about/about';
import { soundPlace } from '@/core/session/prints';
import type { Asset, Clip } from '@/core/session/records/clips';
import { LONGEST_BEATS } from '@/core/session/fields';
import { ChannelChoice } from '../controls/ChannelChoice';
import { useStudio, useStudioState } from '../session/StudioContext';
import { formatSeconds } from '../ui/music';

interface Props {
  readonly clip: Clip;
  readonly asset: Asset;
}

/** What the file of a clip's sound tells, with what can be done with it, and what is heard of its channels. */
export function SoundFacts({ clip, asset }: Props) {
  const studio = useStudio();
  const tempoBpm = useStudioState(({ document }) => document.session.tempoBpm);
  const { about = {}, channels } = asset;
  const startBeat = ((about.startSeconds ?? 0) * tempoBpm) / 60;
  const words = factWords(about);
  const canTake = about.tempoBpm !== undefined && about.tempoBpm !== tempoBpm;
  const canMove = about.startSeconds !== undefined && startBeat <= LONGEST_BEATS && startBeat !== clip.startBeat;
  return (
    <>
      {channels > 2 && (
        <div className="lane-field" title="For all clips of this sound">
          <span>{channels} channels</span>
          <ChannelChoice
            label={`What is heard of ${asset.name}`}
            channels={channels}
            heard={asset.heard}
            onChoose={(heard) =>
              studio.editor.perform({ type: 'asset.hear', id: asset.id, heard }, `Channels of ${asset.name}`)
            }
          />
        </div>
      )}
      {words.length > 0 && (
        <div className="lane-field" title="What its file tells">
          <span>file</span>
          <b>{words.join(' · ')}</b>
        </div>
      )}
      {canTake && (
        <Button
          variant="plain"
          title="The tempo of the session, as the file has it"
          onClick={() =>
            studio.editor.perform({ type: 'session.set', values: { tempoBpm: about.tempoBpm! } }, 'Tempo of the file')
          }
        >
          Set tempo to {about.tempoBpm} BPM
        </Button>
      )}
      {canMove && (
        <Button
          variant="plain"
          title="Moves the clip to the time that its file tells"
          onClick={() =>
            studio.editor.perform({ type: 'clip.set', id: clip.id, values: { startBeat } }, `Move ${clip.name}`)
          }
        >
          Move to {formatSeconds(about.startSeconds!)}
        </Button>
      )}
    </>
  );
}

const factWords = ({ tempoBpm, key, title, date, startSeconds }: SoundAbout): string[] => [
  ...(title === undefined ? [] : [title]),
  ...(tempoBpm === undefined ? [] : [`${tempoBpm} BPM`]),
  ...(key === undefined ? [] : [key]),
  ...(date === undefined ? [] : [date]),
  ...(startSeconds === undefined ? [] : [`from ${formatSeconds(startSeconds)}`]),
];

interface MarksProps extends Props {
  readonly perSecond: number;
}

/** Pixels that a name needs beside the next mark. */
const NAME_WIDTH = 48;

/** The places that the file of a sound names: a press puts the playhead there. */
export function FileMarks({ clip, asset, perSecond }: MarksProps) {
  const studio = useStudio();
  const marks = (asset.about?.marks ?? [])
    .map(({ seconds, name }) => ({ name, into: soundPlace(clip, seconds) }))
    .filter(({ into }) => into >= 0 && into < clip.lengthSeconds)
    .sort((a, b) => a.into - b.into);
  const seek = (into: number) => {
    const { tempoBpm } = studio.state.document.session;
    studio.transport.seekBeat(clip.startBeat + (into * tempoBpm) / 60);
  };
  return marks.map(({ name, into }, n) => {
    const room = ((marks[n + 1]?.into ?? clip.lengthSeconds) - into) * perSecond;
    return (
      <Button
        key={`${into} ${name}`}
        bsPrefix="clip-flag"
        style={{ left: into * perSecond }}
        aria-label={`Mark ${n + 1} of ${clip.name}: ${name}`}
        title={`${name}: put the playhead here`}
        onPointerDown={(event) => event.stopPropagation()}
        onClick={() => seek(into)}
        onKeyDown={(event) => event.key === 'Enter' && event.stopPropagation()}
      >
        {room >= NAME_WIDTH && <span style={{ maxWidth: room - 6 }}>{name}</span>}
      </Button>
    );
  });
}
