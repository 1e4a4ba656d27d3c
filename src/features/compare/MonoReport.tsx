'use client';

import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import { centreHz, type FieldBand, type StereoField } from '@/core/analysis/stereoField';
import { compileBehind, compileHeard } from '@/core/session/compile/parts';
import { stripOf } from '@/core/session/records/queries';
import type { SessionDocument } from '@/core/session/records/document';
import { portraits } from '../session/bandProfile';
import { useStudio, useStudioState } from '../session/StudioContext';
import { minus } from '../ui/axes';
import { DataTable, type DataShape } from '../ui/DataTable';
import { EditableText } from '../ui/EditableText';

const hertz = (band: FieldBand) => Number(centreHz(band).toPrecision(2));
const figure = (value: number | null, digits: number) => (value === null ? '–' : minus(value.toFixed(digits)));

const OCTAVES: DataShape<FieldBand> = {
  idOf: ({ fromHz }) => String(fromHz),
  columns: [
    { id: 'octave', head: 'Octave', value: hertz, cell: (band) => `${hertz(band)} Hz` },
    {
      id: 'share',
      head: 'Level',
      help: 'Of both sides, beside the whole',
      value: ({ shareDb }) => (Number.isFinite(shareDb) ? shareDb : undefined),
      cell: ({ shareDb }) => (Number.isFinite(shareDb) ? `${minus(shareDb.toFixed(1))} dB` : '–'),
    },
    {
      id: 'correlation',
      head: 'Correlation',
      value: ({ correlation }) => correlation ?? undefined,
      cell: ({ correlation }) => figure(correlation, 2),
    },
    {
      id: 'loss',
      head: 'Lost in mono',
      value: ({ monoLossDb }) => monoLossDb ?? undefined,
      cell: ({ monoLossDb }) => (monoLossDb === null ? '–' : `${monoLossDb.toFixed(1)} dB`),
    },
  ],
};

/**
 * Loss in mono of a strip, or of the output of one of its effects, by octave over the loop or the whole session, with
 * the limit from which it is marked.
 */
export function MonoReport({ stripId, insertId }: { readonly stripId: string; readonly insertId: string | null }) {
  const studio = useStudio();
  const { name, limit } = useStudioState(({ document }) => {
    const strip = stripOf(document, stripId)!;
    return { name: strip.name, limit: strip.monoLimitDb };
  });
  const document = useStudioState((state) => state.document);
  const [found, setFound] = useState<{ document: SessionDocument; field: StereoField } | null>(null);
  const [busy, setBusy] = useState(false);
  const measure = async () => {
    setBusy(true);
    try {
      const plan = insertId === null ? compileHeard(document, stripId) : compileBehind(document, insertId);
      const [portrait] = await studio.jobs.track(`What ${name} loses in mono`, ({ signal, progress }) =>
        portraits(studio, [plan], { signal, onProgress: progress }),
      );
      setFound({ document, field: portrait!.field });
    } catch (error) {
      studio.messages.report(error);
    } finally {
      setBusy(false);
    }
  };
  const { loopOn } = document.session;
  return (
    <section className="mono-report" aria-label={`What ${name} loses in mono`}>
      <header>
        <h3>{insertId === null ? 'In mono' : 'In mono, out of this effect'}</h3>
        <span data-help="While it plays, its row in the cast is marked when mono takes more than this of it.">
          warn above
          <EditableText
            label={`Decibels from which ${name} is marked`}
            text={`${limit} dB`}
            width={56}
            onTyped={(text) =>
              studio.editor.perform(
                { type: 'strip.set', id: stripId, values: { monoLimitDb: Number.parseFloat(text.replace(',', '.')) } },
                `Mono mark of ${name}`,
              )
            }
          />
        </span>
        <Button variant="line" disabled={busy} onClick={() => void measure()}>
          {busy ? 'Measuring …' : `Measure ${loopOn ? 'the loop' : 'the whole track'}`}
        </Button>
      </header>
      {found && (
        <>
          <p role="status" className={found.document === document ? undefined : 'mono-old'}>
            {summary(found.field)}
            {found.document !== document && ' Something has changed since.'}
          </p>
          <DataTable label={`What ${name} loses in mono, by octave`} shape={OCTAVES} rows={found.field.octaves} />
        </>
      )}
    </section>
  );
}

function summary({ monoLossDb, panningDb, worst, tiltDb }: StereoField): string {
  if (monoLossDb === null) return 'Silence: nothing to be lost.';
  const most = worst ? `, most of it around ${hertz(worst)} Hz (${worst.monoLossDb!.toFixed(1)} dB)` : '';
  const lost = monoLossDb < 0.05 ? 'Nothing cancels in mono.' : `Mono takes ${monoLossDb.toFixed(1)} dB in all${most}.`;
  const lean =
    tiltDb !== null && Math.abs(tiltDb) >= 0.5
      ? ` It leans ${Math.abs(tiltDb).toFixed(1)} dB to the ${tiltDb > 0 ? 'left' : 'right'}.`
      : '';
  const panned =
    panningDb! >= 0.05 ? ` Panning makes mono ${panningDb!.toFixed(1)} dB softer, which is no loss of sound.` : '';
  return lost + lean + panned;
}
