'use client';

import { useEffect, useRef, useState } from 'react';
import { yupResolver } from '@hookform/resolvers/yup';
import { Download, Star, Trash2, Upload } from 'lucide-react';
import Dropdown from 'react-bootstrap/Dropdown';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { useForm } from 'react-hook-form';
import * as yup from 'yup';
import { MOST_TAGS, NAME_LENGTH, parsePreset, TAG_LENGTH, writePreset, type PresetFile } from '@/core/formats/preset';
import type { PresetList } from '@/core/protocol/http';
import { shortText } from '@/core/session/fields';
import { textLength } from '@/core/text';
import { FilePicker } from '../ui/FilePicker';
import { downloadFile } from '../ui/downloadFile';
import { listPresets, removePreset, savePreset, setFavourite } from '@/runtime/client/api';
import { useStudio } from '../session/StudioContext';

/** A preset as the panel lists it, shipped or saved. */
export interface OfferedPreset {
  readonly id: string;
  readonly name: string;
  readonly tags: readonly string[];
  /** One line on what to listen for. */
  readonly help?: string | undefined;
  /** A saved one, which can be written out and removed. */
  readonly saved: PresetFile | null;
  /** Puts it in the place of what is there, to be kept when the panel closes. */
  readonly audition: () => void;
}

interface Props {
  /** Names the button that opens the panel. */
  readonly label: string;
  readonly word: string;
  readonly variant: string;
  readonly kind: PresetFile['kind'];
  readonly shipped: readonly OfferedPreset[];
  /** Saved presets that fit here. */
  readonly fits: (preset: PresetFile) => boolean;
  readonly audition: (preset: PresetFile) => void;
  /** What is set now, as the effects of a preset. */
  readonly now: () => PresetFile['effects'];
}

const tagsIn = (text: string) =>
  text
    .split(',')
    .map((one) => one.trim())
    .filter(Boolean);

const schema = yup.object({
  name: shortText(NAME_LENGTH).trim().required('A preset needs a name.'),
  tags: yup
    .string()
    .defined()
    .test('few', `A preset takes ${MOST_TAGS} tags of ${TAG_LENGTH} letters each.`, (text) => {
      const tags = tagsIn(text);
      return tags.length <= MOST_TAGS && tags.every((tag) => textLength(tag) <= TAG_LENGTH);
    }),
});
const UNNAMED = { name: '', tags: '' };

const NONE: PresetList = { presets: [], favourites: [] };

/** Presets to search, try while playing, keep, mark, save, read and write. Escape takes back what was tried. */
export function PresetPanel({ label, word, variant, kind, shipped, fits, audition, now }: Props) {
  const studio = useStudio();
  const [open, setOpen] = useState(false);
  const [list, setList] = useState(NONE);
  const [search, setSearch] = useState('');
  const [tag, setTag] = useState<string | null>(null);
  const [tried, setTried] = useState<string | null>(null);
  const { register, handleSubmit, reset, formState } = useForm({
    resolver: yupResolver(schema),
    defaultValues: UNNAMED,
  });
  const files = useRef<HTMLInputElement>(null);

  const refresh = () => listPresets().then(setList, (error: unknown) => studio.messages.report(error));
  useEffect(() => {
    if (open) listPresets().then(setList, (error: unknown) => studio.messages.report(error));
  }, [open, studio]);

  const mine: OfferedPreset[] = list.presets
    .filter(({ preset }) => fits(preset))
    .map(({ id, preset }) => ({
      id,
      name: preset.name,
      tags: preset.tags,
      saved: preset,
      audition: () => audition(preset),
    }));
  const all = [...mine, ...shipped];
  const allTags = [...new Set(all.flatMap((one) => one.tags))];
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  const shown = all
    .filter((one) =>
      words.every((part) => `${one.name} ${one.tags.join(' ')} ${one.help ?? ''}`.toLowerCase().includes(part)),
    )
    .filter((one) => tag === null || (tag === 'favourites' ? list.favourites.includes(one.id) : one.tags.includes(tag)))
    .sort((a, b) => Number(list.favourites.includes(b.id)) - Number(list.favourites.includes(a.id)));

  const toggle = (next: boolean, how: string | undefined) => {
    setOpen(next);
    if (next) return;
    if (how === 'keydown') studio.editor.abandon();
    else studio.editor.settle();
    setTried(null);
  };
  const attempt = (work: () => Promise<void>) => void work().catch((error: unknown) => studio.messages.report(error));
  const save = handleSubmit(({ name, tags }) =>
    attempt(async () => {
      studio.editor.settle();
      await savePreset({ format: 'kinetikon.preset', version: 1, kind, name, tags: tagsIn(tags), effects: now() });
      reset();
      await refresh();
    }),
  );
  const download = (preset: PresetFile) =>
    downloadFile(`${preset.name}.json`, new Blob([writePreset(preset)], { type: 'application/json' }));

  const wrong = formState.errors.name ?? formState.errors.tags;
  return (
    <Dropdown
      align="end"
      autoClose="outside"
      show={open}
      onToggle={(next, { originalEvent }) => toggle(next, originalEvent?.type)}
      className="preset-menu"
    >
      <Dropdown.Toggle variant={variant} bsPrefix="preset-toggle" aria-label={label}>
        {word} ▾
      </Dropdown.Toggle>
      <Dropdown.Menu
        as="div"
        className="preset-panel"
        onKeyDown={(event) => event.key !== 'Escape' && event.stopPropagation()}
      >
        <div className="preset-search">
          <Form.Control
            type="search"
            aria-label="Search presets"
            placeholder="Search name or tag"
            value={search}
            onChange={(event) => setSearch(event.target.value)}
          />
          <Form.Select aria-label="Tag" value={tag ?? ''} onChange={(event) => setTag(event.target.value || null)}>
            <option value="">all</option>
            <option value="favourites">favourites</option>
            {allTags.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </Form.Select>
        </div>
        <ul className="preset-list" aria-label="Presets">
          {shown.map((one) => (
            <li key={one.id} className={one.id === tried ? 'preset-tried' : undefined}>
              <Button
                bsPrefix="preset-name"
                onClick={() => {
                  one.audition();
                  setTried(one.id);
                }}
              >
                {one.name}
                <small>{one.help ?? one.tags.join(', ')}</small>
              </Button>
              <Button
                variant="icon"
                aria-pressed={list.favourites.includes(one.id)}
                aria-label={`Favourite: ${one.name}`}
                title="Favourites come first"
                onClick={() =>
                  attempt(async () => {
                    await setFavourite(one.id, !list.favourites.includes(one.id));
                    await refresh();
                  })
                }
              >
                <Star size={12} fill={list.favourites.includes(one.id) ? 'currentColor' : 'none'} aria-hidden="true" />
              </Button>
              {one.saved && (
                <>
                  <Button
                    variant="icon"
                    aria-label={`Write ${one.name} to a file`}
                    title="Write to a file"
                    onClick={() => download(one.saved!)}
                  >
                    <Download size={12} aria-hidden="true" />
                  </Button>
                  <Button
                    variant="icon"
                    aria-label={`Remove preset ${one.name}`}
                    title="Remove"
                    onClick={() =>
                      attempt(async () => {
                        await removePreset(one.id);
                        await refresh();
                      })
                    }
                  >
                    <Trash2 size={12} aria-hidden="true" />
                  </Button>
                </>
              )}
            </li>
          ))}
          {shown.length === 0 && <li className="empty-hint">Nothing fits. Clear the search, or save one below.</li>}
        </ul>
        <p className="preset-hint">A press lets you hear it. Close to keep it, Escape to take it back.</p>
        <Form noValidate className="preset-save" onSubmit={(event) => void save(event)}>
          <Form.Control
            aria-label="Name of the new preset"
            placeholder="Name"
            isInvalid={wrong !== undefined}
            {...register('name')}
          />
          <Form.Control aria-label="Tags of the new preset" placeholder="Tags, by commas" {...register('tags')} />
          <Button type="submit" variant="line">
            Save
          </Button>
          <Button
            variant="icon"
            aria-label="Read a preset from a file"
            title="Read from a file"
            onClick={() => files.current!.click()}
          >
            <Upload size={13} aria-hidden="true" />
          </Button>
          <FilePicker
            ref={files}
            label="Preset file"
            accept=".json,application/json"
            onPick={([file]) =>
              attempt(async () => {
                await savePreset(parsePreset(await file!.text()));
                await refresh();
              })
            }
          />
          {wrong && (
            <p role="alert" className="form-error">
              {wrong.message}
            </p>
          )}
        </Form>
      </Dropdown.Menu>
    </Dropdown>
  );
}
