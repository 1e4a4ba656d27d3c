import Button from 'react-bootstrap/Button';
import type { Render } from '@/core/protocol/renders';
import { cancelRender, renderUrl } from '@/runtime/client/api';
import { useStudio } from '../session/StudioContext';
import { useRenders } from '../session/useRenders';
import { formatSeconds } from '../ui/music';

const secondsOf = ({ startedAt, endedAt }: Render) =>
  startedAt === null ? 0 : ((endedAt === null ? Date.now() : Date.parse(endedAt)) - Date.parse(startedAt)) / 1000;

/** State of a render in words. */
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

/** Renders of this session on the studio's machines; nothing where there are no machines. */
export function Renders() {
  const studio = useStudio();
  const { list, look } = useRenders();
  if (!list?.hasMachines) return null;
  const end = (id: string) =>
    void cancelRender(id).then(look, (error: unknown) => studio.messages.report(error, 'renders'));
  return (
    <>
      <h3>Renders on the studio’s machines</h3>
      {list.renders.length === 0 ? (
        <p className="empty-hint">None yet. A bounce can be sent there; it goes on when this page is closed.</p>
      ) : (
        <ul className="render-list" aria-label="Renders on the studio’s machines">
          {list.renders.map((render) => {
            const { id, name, state, progress } = render;
            const isUnderWay = state === 'waiting' || state === 'running';
            return (
              <li key={id}>
                <b title={name}>{name}</b>
                {state === 'done' && render.resultBytes !== null && (
                  <a className="btn btn-line" href={renderUrl(id)} download={name}>
                    Download
                  </a>
                )}
                <Button
                  variant="plain"
                  aria-label={`${isUnderWay ? 'Cancel' : 'Remove'} ${name}`}
                  onClick={() => end(id)}
                >
                  {isUnderWay ? 'Cancel' : 'Remove'}
                </Button>
                <small className={state === 'failed' ? 'form-error' : undefined}>{stateOf(render)}</small>
                {state === 'running' && <progress max={1} value={progress} aria-label={`Progress of ${name}`} />}
              </li>
            );
          })}
        </ul>
      )}
    </>
  );
}
