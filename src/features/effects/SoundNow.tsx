import { useRef } from 'react';
import Button from 'react-bootstrap/Button';
import Table from 'react-bootstrap/Table';
import { momentary } from '@/core/analysis/levels';
import { formatValue } from '@/core/effects/parameterText';
import { findEffect } from '@/core/effects/registry';
import { channels, timingOf } from '@/core/session/records/queries';
import type { SessionDocument } from '@/core/session/records/document';
import type { Strip } from '@/core/session/records/strips';
import { SEND_GAIN_PARAMETER } from '@/core/session/stripParameters';
import { useStudio, useStudioState } from '../session/StudioContext';
import { minus } from '../ui/axes';
import { StereoScope } from '../controls/StereoScope';
import { SpectrumChart } from '../controls/SpectrumChart';
import { writeText } from '../ui/drawn';
import { FoldHeading } from '../ui/FoldHeading';
import { useFolds } from '../ui/useFolds';
import { useFrame } from '../ui/useFrame';
import { useProbe } from '../controls/useProbe';

const FOLD = 'sound now';
/** Figures that change faster cannot be read. */
const FRAMES_APART = 8;

/** Source of an effect's input: the effect before it, or the strip's own sources. */
function feedsOf(document: SessionDocument, strip: Strip, insertId: string): { id: string; text: string }[] {
  const before = strip.insertIds
    .slice(0, strip.insertIds.indexOf(insertId))
    .filter((id) => !document.inserts[id]!.bypass)
    .at(-1);
  if (before !== undefined) return [{ id: before, text: findEffect(document.inserts[before]!.effect)!.name }];
  if (document.tracks[strip.id]) {
    const count = Object.values(document.clips).filter(({ trackId }) => trackId === strip.id).length;
    return [{ id: strip.id, text: `${count} ${count === 1 ? 'clip' : 'clips'} of ${strip.name}` }];
  }
  const outputs = channels(document).filter(({ outputId }) => outputId === strip.id);
  const sends = Object.values(document.sends).filter(({ toId, mute }) => toId === strip.id && !mute);
  const timing = timingOf(document);
  const name = new Map(channels(document).map((one) => [one.id, one.name]));
  return [
    ...sends.map(({ fromId, gainDb }) => ({
      id: fromId,
      text: `${name.get(fromId)!} at ${formatValue(SEND_GAIN_PARAMETER, gainDb, timing)}`,
    })),
    ...outputs.map((one) => ({ id: one.id, text: one.name })),
  ];
}

interface Props {
  readonly insertId: string;
  readonly strip: Strip;
  /** As long as it was neither opened nor folded. */
  readonly open: boolean;
  readonly spectrum: boolean;
  readonly scope: boolean;
}

/** Source of an effect's input, and live levels, spectrum and stereo field before and after it. */
export function SoundNow(props: Props) {
  const [opened, setOpened] = useFolds();
  const isOpen = opened[FOLD] ?? props.open;
  return (
    <section className="sound-now" aria-label="The sound now">
      <FoldHeading
        name="Sound now"
        isOpen={isOpen}
        note={isOpen ? undefined : 'source, levels, spectrum, stereo field'}
        onToggle={() => setOpened(FOLD, !isOpen)}
      />
      {isOpen && <OpenSound {...props} />}
    </section>
  );
}

function OpenSound({ insertId, strip, spectrum, scope }: Omit<Props, 'open'>) {
  const studio = useStudio();
  const feeds = useStudioState(({ document }) =>
    feedsOf(document, strip, insertId).flatMap(({ id, text }) => [id, text] as const),
  );
  return (
    <div className="sound-now-parts">
      <div>
        <p>
          Input from {feeds.length === 0 && 'nothing yet'}
          {feeds.map((text, n) =>
            n % 2 === 0 ? null : (
              <Button
                key={feeds[n - 1]}
                variant="plain"
                aria-label={`Go to ${text}, which feeds this`}
                onClick={() => {
                  const id = feeds[n - 1]!;
                  if (studio.state.document.inserts[id]) studio.selection.selectInsert(id);
                  else studio.selection.selectStrip(id);
                }}
              >
                {text}
              </Button>
            ),
          )}
        </p>
        <Figures insertId={insertId} />
      </div>
      {spectrum && (
        <SpectrumChart targetId={insertId} step={30} height={150} label="Spectrum before and after this effect, live" />
      )}
      {scope && <StereoScope targetId={insertId} label="Field before and after this effect" />}
    </div>
  );
}

const ROWS = ['before', 'after', 'change'] as const;
const dB = (value: number | null) => (value === null ? '−inf' : minus(value.toFixed(1)));
const plain = (value: number | null) => (value === null ? '–' : minus(value.toFixed(2)));

/** Level and correlation before and after, written as they come. */
function Figures({ insertId }: { readonly insertId: string }) {
  const body = useRef<HTMLTableSectionElement>(null);
  const watched = useProbe(insertId);
  const frame = useRef(0);
  useFrame(() => {
    if (frame.current++ % FRAMES_APART !== 0 || !watched.current || !body.current) return;
    const { rings } = watched.current;
    const before = momentary(rings[0]!, rings[1]!);
    const after = momentary(rings[2]!, rings[3]!);
    const change = before.rmsDb === null || after.rmsDb === null ? null : after.rmsDb - before.rmsDb;
    const texts = [
      [dB(before.rmsDb), plain(before.correlation)],
      [dB(after.rmsDb), plain(after.correlation)],
      [change === null ? '–' : `${change > 0 ? '+' : ''}${dB(change)}`, ''],
    ];
    for (const [row, cells] of texts.entries()) {
      for (const [column, text] of cells.entries()) writeText(body.current.rows[row]!.cells[column + 1]!, text);
    }
  });
  return (
    <Table size="sm">
      <thead>
        <tr>
          <td />
          <th scope="col">dB RMS</th>
          <th scope="col">correlation</th>
        </tr>
      </thead>
      <tbody ref={body}>
        {ROWS.map((name) => (
          <tr key={name}>
            <th scope="row">{name}</th>
            <td />
            <td />
          </tr>
        ))}
      </tbody>
    </Table>
  );
}
