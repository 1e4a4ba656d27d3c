'use client';

import { useEffect, useRef, useState } from 'react';
import { Star } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { writeWav } from '@/core/formats/wav';
import type { JobResults } from '@/core/jobs/kinds';
import { listPresets, setFavourite } from '@/runtime/client/api';
import { ImpulseWave } from './ImpulseWave';
import { ImpulseWorkshop } from './ImpulseWorkshop';
import { bringInSound, chooseSound } from '../../session/soundChoice';
import type { Samples } from '@/core/engine/plan';
import { useWork } from '../../session/useWork';
import { ACCEPTED_SOUNDS } from '@/core/formats/soundFormats';
import { FilePicker } from '../../ui/FilePicker';
import { downloadFile } from '../../ui/downloadFile';
import { MEASURED } from '@/core/effects/convolution/impulses/measured';
import { SHIPPED_IMPULSES } from '@/core/effects/convolution/impulses/shipped';
import { specOf } from '@/core/effects/registry';
import { formatUnit } from '@/core/effects/units';
import type { SoundSetting } from '@/core/effects/settings';
import { defaultValues, findSetting } from '@/core/effects/spec';
import type { Insert } from '@/core/session/records/inserts';
import { useStudio, useStudioState } from '../../session/StudioContext';
import { CurvePicture } from '../pictures/CurvePicture';
import { DecayChart } from '../pictures/DecayChart';
import { isFound } from '../../ui/isFound';
import type { EffectExtras } from '../extras';
import { usePicture, useRoom } from '../pictures/pictures';
import { RoomFigures } from '../pictures/RoomFigures';
import './convolution.css';

const spec = specOf('convolution');
const setting = findSetting(spec, 'impulse') as SoundSetting;
const KINDS = [...new Set(SHIPPED_IMPULSES.map(({ group }) => group))].map(
  (group) => [group, SHIPPED_IMPULSES.filter((one) => one.group === group)] as const,
);
/** Shorter impulses are described by their tone instead of their decay, in seconds. */
const BRIEF = 0.06;

function Response({ insert }: { readonly insert: Insert }) {
  const picture = usePicture(insert, 'response');
  return <CurvePicture picture={picture} label="Response of the effect, from the engine" height={250} />;
}

interface Offered {
  readonly id: string;
  readonly name: string;
  readonly about: string;
}

const favouriteId = (id: string) => `impulse/${id}`;

/** Which impulses are favourites, kept beside those of presets. */
function useFavourites(): readonly [ReadonlySet<string>, (id: string) => void] {
  const studio = useStudio();
  const [favourites, setFavourites] = useState<ReadonlySet<string>>(new Set());
  useEffect(() => {
    listPresets().then(
      ({ favourites: all }) => setFavourites(new Set(all)),
      (error: unknown) => studio.messages.report(error),
    );
  }, [studio]);
  const turn = (id: string) => {
    const next = new Set(favourites);
    const on = !next.delete(favouriteId(id));
    if (on) next.add(favouriteId(id));
    setFavourites(next);
    setFavourite(favouriteId(id), on).catch((error: unknown) => studio.messages.report(error));
  };
  return [favourites, turn];
}

/** The impulse as it ships or was brought in; null while it is worked out. */
function useImpulse(id: string): JobResults['impulse'] | Samples | null {
  const studio = useStudio();
  const sampleRateHz = useStudioState(({ document }) => document.session.sampleRateHz);
  return useWork<JobResults['impulse'] | Samples>(`${id} ${sampleRateHz}`, async (signal) => {
    const shipped = SHIPPED_IMPULSES.some((one) => one.id === id);
    if (!shipped) return (await studio.sounds.samplesOf([id], signal))[0]!;
    return studio.renderer.run({ kind: 'impulse', from: { kind: 'shipped', id }, sampleRateHz }, { signal });
  });
}

/** Impulses by kind, and what the chosen one, as it is edited, measures. */
function ImpulsePicture({ insert }: { readonly insert: Insert }) {
  const studio = useStudio();
  const { result: room, busy } = useRoom(insert);
  const values = { ...defaultValues(spec), ...insert.values };
  const [search, setSearch] = useState('');
  const [making, setMaking] = useState(false);
  const [dropping, setDropping] = useState(false);
  const file = useRef<HTMLInputElement>(null);
  const list = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const chosen = list.current?.querySelector<HTMLElement>('[aria-pressed="true"]');
    if (chosen) list.current!.scrollTop = chosen.offsetTop - list.current!.offsetTop - 90;
  }, []);
  const [favourites, turnFavourite] = useFavourites();
  const impulse = useImpulse(String(values.impulse));
  const { sounds, sampleRateHz } = useStudioState(({ document }) => ({
    sounds: document.assets,
    sampleRateHz: document.session.sampleRateHz,
  }));
  const own: Offered[] = Object.values(sounds)
    .filter((one) => one.frames / one.sampleRateHz <= setting.longestSeconds)
    .map(({ id, name }) => ({ id, name, about: 'A sound of this session.' }));
  const everything: readonly Offered[] = [...SHIPPED_IMPULSES, ...own];
  const liked = everything.filter(({ id }) => favourites.has(favouriteId(id)));
  const groups = [
    ...(liked.length > 0 ? [['Favourites', liked] as const] : []),
    ...KINDS,
    ...(own.length > 0 ? [['Sounds of this session', own] as const] : []),
  ]
    .map(([group, all]) => [group, all.filter(({ name, about }) => isFound(search, group, name, about))] as const)
    .filter(([, all]) => all.length > 0);
  const chosen = everything.find(({ id }) => id === values.impulse);
  const brief = room !== null && room.t30 !== null && room.t30 < BRIEF;
  const bringIn = (files: readonly File[]) => {
    const [file] = files;
    if (file) void bringInSound(studio, insert.id, setting, file);
  };
  const save = () => {
    if (!impulse || !chosen) return;
    const bytes =
      'bytes' in impulse
        ? impulse.bytes
        : writeWav({ sampleRateHz, channels: [impulse.left, impulse.right, ...(impulse.more ?? [])] }, '32f');
    const name = chosen.name.replace(/\.[^.]*$/, '');
    downloadFile(`${name}.wav`, new Blob([bytes as Uint8Array<ArrayBuffer>], { type: 'audio/wav' }));
  };
  const isLiked = chosen !== undefined && favourites.has(favouriteId(chosen.id));
  return (
    <div
      className={`room-picture ${dropping ? 'room-dropping' : ''}`}
      onDragOver={(event) => {
        if (!event.dataTransfer.types.includes('Files')) return;
        event.preventDefault();
        setDropping(true);
      }}
      onDragLeave={(event) => event.currentTarget === event.target && setDropping(false)}
      onDrop={(event) => {
        event.preventDefault();
        setDropping(false);
        bringIn([...event.dataTransfer.files]);
      }}
    >
      <div className="impulse-side">
        <Form.Control
          size="sm"
          type="search"
          placeholder="search impulses"
          aria-label="Search impulses"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
        />
        <div ref={list} className="impulse-list" role="group" aria-label="Impulses">
          {groups.map(([group, impulses]) => (
            <div key={group} role="group" aria-label={group}>
              <h3>
                <span>{group}</span>
                <span title="Time in which it falls by 60 dB">T30</span>
                <span title="Early to late energy, parted at 80 ms">C80</span>
              </h3>
              {impulses.map(({ id, name, about }) => (
                <Button
                  key={id}
                  bsPrefix="impulse-choice"
                  aria-pressed={id === values.impulse}
                  aria-label={`Impulse ${name}`}
                  aria-description={about}
                  title={about}
                  onClick={() => chooseSound(studio, insert, setting, { id, name })}
                >
                  <span>{name}</span>
                  <Measured id={id} />
                </Button>
              ))}
            </div>
          ))}
          {groups.length === 0 && <p className="empty-hint">Nothing of that name.</p>}
        </div>
        <div className="impulse-new">
          <Button
            variant="line"
            title="A sound file of up to 20 s; it can be dropped here, too"
            onClick={() => file.current!.click()}
          >
            Bring in an impulse
          </Button>
          <Button variant="line" title="Simulate one, or measure a place" onClick={() => setMaking(true)}>
            Make one
          </Button>
        </div>
        <FilePicker ref={file} label="Impulse file" accept={ACCEPTED_SOUNDS} onPick={bringIn} />
      </div>
      <div className="room-decay">
        <div className="impulse-about">
          <p>
            <strong>{chosen?.name}</strong> {chosen?.about}
          </p>
          {chosen && (
            <Button
              variant="icon"
              aria-pressed={isLiked}
              aria-label={`Favourite: ${chosen.name}`}
              title="Favourites come first"
              onClick={() => turnFavourite(chosen.id)}
            >
              <Star size={13} fill={isLiked ? 'currentColor' : 'none'} aria-hidden="true" />
            </Button>
          )}
          <Button variant="line" disabled={!impulse} title="The impulse as it is before its edits" onClick={save}>
            Save as WAV
          </Button>
        </div>
        {impulse && <ImpulseWave insert={insert} impulse={impulse} sampleRateHz={sampleRateHz} />}
        {brief ? <Response insert={insert} /> : <DecayChart measured={room} height={150} />}
        <RoomFigures room={room} busy={busy} />
      </div>
      {making && <ImpulseWorkshop insertId={insert.id} onHide={() => setMaking(false)} />}
    </div>
  );
}

/** Decay and clarity of an impulse that ships. */
function Measured({ id }: { readonly id: string }) {
  const measured = MEASURED[id];
  if (!measured) return null;
  const { t30, c80 } = measured;
  return (
    <>
      <span className="figure">{t30 === null ? '–' : `${t30 < 1 ? t30.toFixed(2) : t30.toFixed(1)} s`}</span>
      <span className="figure">{c80 > 60 ? 'early' : formatUnit('dB', Math.round(c80))}</span>
    </>
  );
}

export const convolutionView: EffectExtras = {
  Picture: ImpulsePicture,
  pictureName: 'Space',
  shows: (id) => id === 'impulse',
};
