import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import type { Render } from '@/core/protocol/renders';
import { isUnderWay } from '@/core/protocol/renderStates';
import { cancelRender, renderUrl } from '@/runtime/client/api';
import type { LocalBounce } from '../session/bounceStore';
import { useStudio, useStudioState } from '../session/StudioContext';
import { useRenders } from '../session/useRenders';
import { downloadFile } from '../ui/downloadFile';
import { formatSeconds, progressWords } from '../ui/music';

const TIME = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' });

const secondsOf = ({ startedAt, endedAt }: Render) =>
  startedAt === null ? 0 : ((endedAt === null ? Date.now() : Date.parse(endedAt)) - Date.parse(startedAt)) / 1000;

/** State of a render on the studio's machines in words. */
export function stateOf(render: Render): string {
  const { state, machine, waitsFor, progress, error } = render;
  switch (state) {
    case 'waiting':
      return waitsFor === null ? 'waits for a machine' : `waits for ${waitsFor}`;
    case 'running':
      return `${Math.round(progress * 100)} % on ${machine}, ${formatSeconds(secondsOf(render))}`;
    case 'done':
      return `done on ${machine} in ${formatSeconds(secondsOf(render))}`;
    case 'failed':
      return `failed: ${error!.message}`;
    case 'cancelled':
      return 'cancelled';
  }
}

/** State of a bounce in this browser in words. */
function localStateOf(bounce: LocalBounce): string {
  const { state, isElsewhere, tookSeconds, error } = bounce;
  if (isElsewhere) return 'in another window of this session';
  switch (state) {
    case 'waiting':
      return 'waits for the bounce before it';
    case 'running':
      return `${progressWords(bounce)}, here`;
    case 'done':
      return `done here in ${formatSeconds(tookSeconds!)}`;
    case 'failed':
      return `failed: ${error}`;
  }
}

interface Row {
  readonly id: string;
  readonly name: string;
  readonly askedAt: number;
  readonly state: Render['state'];
  readonly words: string;
  readonly progress: number;
  /** Source of the sound file; null while there is none. */
  readonly file: { readonly url: string } | { readonly fetch: () => Promise<Blob> } | null;
  /** Cancels or removes it; null for one that another window makes. */
  readonly end: (() => Promise<void>) | null;
}

/** Bounces and other renders of this session: where each runs, how far it is and how long it took. */
export function Renders() {
  const studio = useStudio();
  const bounces = useStudioState((state) => state.bounces);
  const freezesOnMachines = useStudioState((state) => state.freezesOnMachines);
  const { list, look } = useRenders();
  const hasMachines = list?.hasMachines ?? false;
  const report = (error: unknown) => studio.messages.report(error, 'renders');
  const local = bounces.map((bounce): Row => ({
    ...bounce,
    name: bounce.fileName,
    words: localStateOf(bounce),
    file: bounce.state === 'done' ? { fetch: () => studio.bounces.file(bounce.id) } : null,
    end: bounce.isElsewhere ? null : () => studio.bounces.remove(bounce.id),
  }));
  const onMachines = (list?.renders ?? []).map((render): Row => ({
    ...render,
    askedAt: Date.parse(render.createdAt),
    words: stateOf(render),
    file: render.state === 'done' && render.resultBytes !== null ? { url: renderUrl(render.id) } : null,
    end: () => cancelRender(render.id).then(look),
  }));
  const rows = [...local, ...onMachines].sort((a, b) => b.askedAt - a.askedAt);
  if (rows.length === 0 && !hasMachines) return null;
  return (
    <>
      <h3>Bounces</h3>
      {hasMachines && (
        <Form.Check
          type="switch"
          id="freezes-on-machines"
          label="Freeze on the studio’s machines"
          checked={freezesOnMachines}
          onChange={(event) => studio.prints.setMachines(event.target.checked)}
        />
      )}
      {rows.length === 0 ? (
        <p className="empty-hint">None yet. What the studio’s machines bounce goes on when this page is closed.</p>
      ) : (
        <ul className="render-list" aria-label="Bounces">
          {rows.map((row) => (
            <RenderRow key={row.id} row={row} onError={report} />
          ))}
        </ul>
      )}
    </>
  );
}

function RenderRow({ row, onError }: { row: Row; onError: (error: unknown) => void }) {
  const { name, askedAt, state, words, progress, file, end } = row;
  const isEnded = !isUnderWay(row);
  return (
    <li>
      <b title={name}>{name}</b>
      {file && 'url' in file && (
        <a className="btn btn-line" href={file.url} download={name}>
          Download
        </a>
      )}
      {file && 'fetch' in file && (
        <Button variant="line" onClick={() => void file.fetch().then((blob) => downloadFile(name, blob), onError)}>
          Download
        </Button>
      )}
      {end && (
        <Button
          variant="line"
          aria-label={`${isEnded ? 'Remove' : 'Cancel'} ${name}`}
          onClick={() => void end().catch(onError)}
        >
          {isEnded ? 'Remove' : 'Cancel'}
        </Button>
      )}
      <small className={state === 'failed' ? 'form-error' : undefined}>{words}</small>
      <time dateTime={new Date(askedAt).toISOString()} title="Asked for">
        {TIME.format(askedAt)}
      </time>
      {state === 'running' && <progress max={1} value={progress} aria-label={`Progress of ${name}`} />}
    </li>
  );
}
