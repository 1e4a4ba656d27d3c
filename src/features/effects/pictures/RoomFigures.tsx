import type { RoomMeasures } from '@/core/dsp/decay';
import { formatUnit } from '@/core/effects/units';
import './room.css';

const round = (value: number, digits: number) => Number(value.toPrecision(digits));

/**
 * Figures of a room besides its decay by octaves, measured on the engine's own response.
 * @param busy whether it is being measured anew, and what is shown is of before
 */
export function RoomFigures({ room: measured, busy }: { readonly room: RoomMeasures | null; readonly busy: boolean }) {
  const room = measured?.silent ? null : measured;
  const seconds = (value: number | null | undefined) =>
    value === null || value === undefined ? '–' : formatUnit('s', round(value, 3));
  const ms = (value: number | null | undefined) =>
    value === null || value === undefined ? '–' : formatUnit('ms', round(1000 * value, 3));
  const db = (value: number | undefined) =>
    value === undefined ? '–' : Math.abs(value) > 60 ? (value > 0 ? 'all early' : 'all late') : formatUnit('dB', value);
  const rows = [
    ['Decay, T30', seconds(room?.t30), 'Time in which it falls by 60 dB, all frequencies together.'],
    ['Early decay', seconds(room?.edt), 'The same from its first 10 dB: what running speech and music let one hear.'],
    ['Clarity C50', db(room?.c50), 'Early to late energy, parted at 50 ms: for words.'],
    ['Clarity C80', db(room?.c80), 'The same parted at 80 ms: for music.'],
    ['First sound', ms(room?.arrivalSeconds), 'When the first of the wet sound arrives.'],
    ['Dense after', ms(room?.denseSeconds), 'When its echoes lie as close as in noise.'],
  ] as const;
  return (
    <div className={busy ? 'room-report room-report-old' : 'room-report'} aria-busy={busy}>
      <dl className="room-figures" aria-label="Measured on the engine’s answer to a click">
        {rows.map(([name, value, help]) => (
          <div key={name} title={help}>
            <dt>{name}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
      <p className="room-state" role="status">
        {busy ? 'measuring …' : measured?.silent ? 'It answers a click with silence.' : ''}
      </p>
    </div>
  );
}
