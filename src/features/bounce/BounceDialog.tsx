'use client';

import { useEffect, useState } from 'react';
import { yupResolver } from '@hookform/resolvers/yup';
import Form from 'react-bootstrap/Form';
import Modal from 'react-bootstrap/Modal';
import Button from 'react-bootstrap/Button';
import { useForm, useWatch } from 'react-hook-form';
import * as yup from 'yup';
import { extensionOf, OUTPUT_FORMATS, outputFormat, type OutputFormatId } from '@/core/formats/soundFormats';
import type { BounceFacts } from '@/core/protocol/renders';
import { isUnderWay } from '@/core/protocol/renderStates';
import { DELIVERIES, FIELD_ORDERS, playedFiner, type Delivery } from '@/core/session/compile/bounce';
import { leftOut } from '@/core/session/leftOut';
import { endBeat } from '@/core/session/records/queries';
import type { BounceSettings } from '@/core/session/renderRequests';
import type { SessionDocument } from '@/core/session/records/document';
import { orderRender } from '@/runtime/client/api';
import type { LocalBounce } from '../session/bounceStore';
import { useStudio, useStudioState } from '../session/StudioContext';
import { useLongTask } from '../session/useLongTask';
import { useRenders } from '../session/useRenders';
import { formatSeconds, progressWords } from '../ui/music';
import { BounceDownload } from './BounceDownload';

/** The true peak that fits most uses. */
const FITTING_DBTP = -1;

/** Names and channels of deliveries. */
const DELIVERY_WORDS: Record<Delivery, { name: string; channels: string }> = {
  speakers: { name: 'Stereo speakers', channels: 'stereo' },
  headphones: { name: 'Binaural headphones', channels: 'stereo' },
  field1: { name: 'Sound field, first order', channels: '4 channels, ACN, SN3D' },
  field3: { name: 'Sound field, third order', channels: '16 channels, ACN, SN3D' },
};
const LONGEST_TAIL = 60;
/** A number as people write it, or none. */
const numberIn = (text: string) => (text.trim() === '' ? NaN : Number(text.replace(',', '.')));

const schema = yup.object({
  range: yup.string().oneOf(['all', 'loop']).required(),
  delivery: yup.string<Delivery>().oneOf(DELIVERIES).required(),
  format: yup
    .string()
    .oneOf(OUTPUT_FORMATS.map(({ id }) => id))
    .required(),
  tail: yup.string().oneOf(['auto', 'cut', 'seconds']).required(),
  where: yup.string().oneOf(['here', 'machines']).required(),
  seconds: yup
    .string()
    .defined()
    .when('tail', {
      is: 'seconds',
      then: (text) =>
        text.test({
          test: (value) => numberIn(value) >= 0 && numberIn(value) <= LONGEST_TAIL,
          message: ({ value }) => `The tail takes 0 to ${LONGEST_TAIL} s, not “${value}”.`,
        }),
    }),
});
type Settings = yup.InferType<typeof schema>;
const FIRST: Omit<Settings, 'delivery'> = {
  range: 'all',
  format: '24',
  tail: 'auto',
  seconds: '4',
  where: 'here',
};

/** Name of the file of a bounce, without its extension. */
const fileNameOf = ({ session }: SessionDocument) => session.name.replace(/[^\p{L}\p{N} _-]/gu, '').trim() || 'bounce';

/** Bounces a stretch of beats; the dialog lets go of a bounce as soon as the session or a setting changes. */
function useBounce(beats: readonly [from: number, to: number]) {
  const studio = useStudio();
  const document = useStudioState((state) => state.document);
  const sending = useLongTask();
  const [bounceId, setBounceId] = useState<string | null>(null);
  const bounced = useStudioState(
    ({ bounces }) => bounces.find(({ id, request }) => id === bounceId && request.document === document) ?? null,
  );
  const forget = () => {
    sending.cancel();
    setBounceId(null);
  };
  const orderOf = ({ format, tail, seconds, delivery }: Settings, gainDb: number) => {
    const settings: BounceSettings = {
      delivery,
      fromBeat: beats[0],
      toBeat: beats[1],
      tailSeconds: tail === 'auto' ? 'auto' : tail === 'cut' ? 0 : numberIn(seconds),
      format: format as OutputFormatId,
      gainDb,
    };
    const name = `${fileNameOf(document)}.${extensionOf(outputFormat(settings.format).container)}`;
    return { request: { kind: 'bounce' as const, document, ...settings }, name };
  };
  /** Has the studio's machines bounce it, as it is now. */
  const send = async (settings: Settings) => {
    forget();
    const sent = await sending.run(() => orderRender({ ...orderOf(settings, 0), sessionId: studio.sessionId }));
    if (sent) studio.set({ bouncing: false, drawer: 'library' });
  };
  const bounce = async (settings: Settings, gainDb: number) => {
    const { request, name } = orderOf(settings, gainDb);
    setBounceId((await studio.bounces.add(request, name)).id);
  };
  const cancel = () => {
    sending.cancel();
    if (bounced) void studio.bounces.remove(bounced.id);
  };
  return { sending, bounced, bounce, send, forget, cancel };
}

/** Finest quality of the reverbs that are played at a coarser one. */
function FinestSwitch() {
  const studio = useStudio();
  const document = useStudioState((state) => state.document);
  const finer = playedFiner(document);
  if (finer.length === 0) return null;
  return (
    <Form.Check
      type="switch"
      id="bounce-finest"
      label={`Render ${finer.length === 1 ? 'one reverb' : `${finer.length} reverbs`} at fine quality`}
      checked={document.session.bounceFinest}
      onChange={(event) =>
        studio.editor.perform(
          { type: 'session.set', values: { bounceFinest: event.target.checked } },
          'Bounce at fine quality',
        )
      }
    />
  );
}

/** Prints the session to a file: what range, what format, how long the effects may ring out. */
export function BounceDialog() {
  const studio = useStudio();
  const document = useStudioState((state) => state.document);
  const making = useStudioState((state) => state.printing.length > 0);
  const { register, control, handleSubmit, formState, setValue } = useForm({
    resolver: yupResolver(schema),
    defaultValues: { ...FIRST, delivery: document.session.stage },
    mode: 'onChange',
  });
  const { range = 'all', tail = 'auto', delivery = 'speakers', format: chosen = '24', where } = useWatch({ control });
  const { session } = document;
  const { channels } = DELIVERY_WORDS[delivery];
  const field = FIELD_ORDERS[delivery];
  const formats = OUTPUT_FORMATS.filter(({ takesFields }) => !field || takesFields);
  const fits = formats.some(({ id }) => id === chosen);
  useEffect(() => {
    if (!fits) setValue('format', '24');
  }, [fits, setValue]);
  const mainEffects = document.main.insertIds.length;
  const beats = range === 'all' ? [0, endBeat(document)] : [session.loopStartBeat, session.loopEndBeat];
  const length = ((beats[1]! - beats[0]!) * 60) / session.tempoBpm;
  const { sending, bounced, bounce, send, forget, cancel } = useBounce(beats as [number, number]);
  const hasMachines = useRenders().list?.hasMachines ?? false;

  const isBouncing = bounced !== null && isUnderWay(bounced);
  const busy = sending.busy || isBouncing;
  /** Closes the dialog; a bounce under way continues in the Library. */
  const close = () => studio.set({ bouncing: false, ...(isBouncing ? { drawer: 'library' as const } : {}) });
  const start = (gainDb: number) =>
    handleSubmit((settings) => (settings.where === 'machines' ? send(settings) : bounce(settings, gainDb)))();
  const missing = leftOut(document);
  const wrong = tail === 'seconds' ? formState.errors.seconds : undefined;
  const error = sending.error ?? bounced?.error;
  return (
    <Modal show centered onHide={close} aria-labelledby="bounce-title">
      <Modal.Header closeButton>
        <Modal.Title id="bounce-title" as="h2">
          Bounce the mix
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <fieldset disabled={busy} className="form-rows" onChange={forget}>
          <label>
            <span>Range</span>
            <Form.Select {...register('range')}>
              <option value="all">Everything</option>
              <option value="loop">The loop</option>
            </Form.Select>
            <em>{formatSeconds(length)}</em>
          </label>
          <label>
            <span>Output</span>
            <Form.Select {...register('delivery')}>
              {Object.entries(DELIVERY_WORDS).map(([id, { name }]) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </Form.Select>
            <em>{channels}</em>
          </label>
          {field && (
            <p className="form-note">
              Everything enters the field from its place on the stage; what is not on the stage, from two speakers
              ahead.
              {mainEffects > 0 && ' Effects of the main output work on two channels and are left out.'}
            </p>
          )}
          <label>
            <span>Format</span>
            <Form.Select {...register('format')}>
              {formats.map(({ id, name }) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </Form.Select>
            <em>{session.sampleRateHz / 1000} kHz</em>
          </label>
          <label>
            <span>Tail</span>
            <Form.Select {...register('tail')}>
              <option value="auto">Until the effects are silent</option>
              <option value="cut">Cut at the end</option>
              <option value="seconds">For a set time</option>
            </Form.Select>
            {tail === 'seconds' ? (
              <span className="with-unit">
                <Form.Control
                  aria-label="Tail in seconds"
                  aria-invalid={wrong !== undefined}
                  {...register('seconds')}
                />{' '}
                s
              </span>
            ) : (
              <em>{tail === 'auto' ? `${LONGEST_TAIL} s at most` : ''}</em>
            )}
          </label>
          {wrong && (
            <p role="alert" className="form-error">
              {wrong.message}
            </p>
          )}
          <FinestSwitch />
          {hasMachines && (
            <label>
              <span>Where</span>
              <Form.Select {...register('where')}>
                <option value="here">Here, in this page</option>
                <option value="machines">On the studio’s machines</option>
              </Form.Select>
              <em>{where === 'machines' ? 'goes on when this page is closed' : ''}</em>
            </label>
          )}
        </fieldset>
        {missing.length > 0 && (
          <p className="form-note" role="note">
            {missing.join(' ')}
          </p>
        )}
        {busy && <progress className="wide-progress" max={1} value={bounced?.progress ?? 0} aria-label="Bouncing" />}
        {isBouncing && (
          <p className="form-note">
            {bounced.state === 'waiting' ? 'Waits for the bounce before it.' : progressWords(bounced)}
          </p>
        )}
        {bounced?.facts && <Made bounced={bounced} facts={bounced.facts} onGain={(gainDb) => void start(gainDb)} />}
        {error && (
          <p role="alert" className="form-error">
            {error} The session is untouched.
          </p>
        )}
      </Modal.Body>
      <Modal.Footer>
        {busy ? (
          <>
            <Button variant="line" onClick={cancel}>
              Cancel
            </Button>
            {isBouncing && (
              <Button variant="solid" onClick={close}>
                Go on working
              </Button>
            )}
          </>
        ) : (
          <Button
            variant={bounced?.facts ? 'line' : 'solid'}
            disabled={wrong !== undefined || length <= 0 || making}
            title={making ? 'Swells and renders are still being made' : undefined}
            onClick={() => void start(0)}
          >
            {where === 'machines' ? 'Send' : bounced?.facts ? 'Bounce again' : 'Bounce'}
          </Button>
        )}
        {bounced?.facts && <BounceDownload bounce={bounced} />}
      </Modal.Footer>
    </Modal>
  );
}

/** Result of a bounce: its levels, clipped samples, and the level that would fit. */
function Made(props: { bounced: LocalBounce; facts: BounceFacts; onGain: (gainDb: number) => void }) {
  const { bounced, facts, onGain } = props;
  const { seconds, levels, clipped } = facts;
  const { gainDb } = bounced.request;
  const { truePeakDb, peakDb, loudnessLufs } = levels;
  const figure = (value: number | null, unit: string) => (value === null ? 'silence' : `${value.toFixed(1)} ${unit}`);
  const fit = truePeakDb === null ? 0 : Number((gainDb + FITTING_DBTP - truePeakDb).toFixed(1));
  const off = truePeakDb === null ? 0 : Math.abs(truePeakDb - FITTING_DBTP);
  return (
    <div className="bounce-made">
      <p role="status">
        Done and saved to your downloads: {formatSeconds(seconds)}, {(bounced.bytes! / 1024 / 1024).toFixed(1)} MB
        {gainDb === 0 ? '' : `, ${gainDb > 0 ? 'raised' : 'lowered'} by ${Math.abs(gainDb).toFixed(1)} dB`}.
      </p>
      <dl>
        <dt>peak</dt>
        <dd>{figure(peakDb, 'dBFS')}</dd>
        <dt>true peak</dt>
        <dd>{figure(truePeakDb, 'dBTP')}</dd>
        <dt>loudness</dt>
        <dd>{figure(loudnessLufs, 'LUFS')}</dd>
        <dt>clipped samples</dt>
        <dd className={clipped > 0 ? 'bounce-clipped' : ''}>{clipped === 0 ? 'none' : `${clipped} over full scale`}</dd>
      </dl>
      {off > 0.15 && (
        <Button variant="line" onClick={() => onGain(fit)}>
          Bounce at {fit > 0 ? '+' : ''}
          {fit.toFixed(1)} dB, to {FITTING_DBTP} dBTP
        </Button>
      )}
    </div>
  );
}
