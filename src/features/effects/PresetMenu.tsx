'use client';

import { useEffect, useRef, useState } from 'react';
import { yupResolver } from '@hookform/resolvers/yup';
import { Download, Star, Trash2, Upload } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { useForm } from 'react-hook-form';
import * as yup from 'yup';
import { MOST_TAGS, NAME_LENGTH, parsePreset, TAG_LENGTH, writePreset, type PresetFile } from '@/core/formats/preset';
import type { PresetList } from '@/core/protocol/http';
import { shortText } from '@/core/session/fields';
import { textLength } from '@/core/text';
import { listPresets, removePreset, savePreset, setFavourite } from '@/runtime/client/api';
import { useStudio } from '../session/StudioContext';
import { downloadFile } from '../ui/downloadFile';
import { isFound } from '../ui/isFound';
import { FilePicker } from '../ui/FilePicker';

/** A preset as the panel lists it, shipped or saved. */
export interface OfferedPreset {
  readonly id: string;
  readonly name: string;
  readonly tags: readonly string[];
  /** One line on what to listen for. */
  readonly help?: string | undefined;
  readonly synonyms?: string | undefined;
  /** A saved one, which can be written out and removed. */
  readonly saved: PresetFile | null;
  /** Puts it in the place of what is there, to be kept when the panel closes. */
  readonly audition: () => void;
}

export interface PresetMenuProps {
  readonly isOpen: boolean;
  /** The preset that is heard now, by id. */
  readonly tried: string | null;
  readonly onTried: (id: string) => void;
  readonly kind: PresetFile['kind'];
  readonly shipped: readonly OfferedPreset[];
  /** Saved presets that fit here. */
  readonly fits: (preset: PresetFile) => boolean;
  readonly audition: (preset: PresetFile) => void;
  /** The current effects, as a preset has them. */
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

/** Presets to search, try, mark, save, read and write. */
export function PresetMenu({ isOpen, tried, onTried, kind, shipped, fits, audition, now }: PresetMenuProps) {
  const studio = useStudio();
  const [list, setList] = useState(NONE);
  const [search, setSearch] = useState('');
  const [tag, setTag] = useState<string | null>(null);
  useEffect(() => {
    if (isOpen) listPresets().then(setList, (error: unknown) => studio.messages.report(error));
  }, [isOpen, studio]);
  /** Does something to the saved presets and lists them anew. */
  const change = (work: () => Promise<unknown>) =>
    void work()
      .then(listPresets)
      .then(setList)
      .catch((error: unknown) => studio.messages.report(error));

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
  const isFavourite = ({ id }: OfferedPreset) => list.favourites.includes(id);
  const shown = all
    .filter(({ name, tags, help, synonyms }) => isFound(search, name, ...tags, help, synonyms))
    .filter((one) => tag === null || (tag === 'favourites' ? isFavourite(one) : one.tags.includes(tag)))
    .sort((a, b) => Number(isFavourite(b)) - Number(isFavourite(a)));
  return (
    <>
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
          <PresetItem
            key={one.id}
            preset={one}
            isTried={one.id === tried}
            isFavourite={isFavourite(one)}
            onTry={() => {
              one.audition();
              onTried(one.id);
            }}
            onFavourite={() => change(() => setFavourite(one.id, !isFavourite(one)))}
            onRemove={() => change(() => removePreset(one.id))}
          />
        ))}
        {shown.length === 0 && <li className="empty-hint">Nothing fits. Clear the search, or save one below.</li>}
      </ul>
      <p className="preset-hint">A press lets you hear it. Close to keep it, Escape to take it back.</p>
      <SavePreset
        onSave={({ name, tags }, onSaved) => {
          studio.editor.settle();
          const preset: PresetFile = { format: 'kinetikon.preset', version: 1, kind, name, tags, effects: now() };
          change(() => savePreset(preset).then(onSaved));
        }}
        onRead={(file) => change(async () => savePreset(parsePreset(await file.text())))}
      />
    </>
  );
}

interface ItemProps {
  readonly preset: OfferedPreset;
  readonly isTried: boolean;
  readonly isFavourite: boolean;
  readonly onTry: () => void;
  readonly onFavourite: () => void;
  readonly onRemove: () => void;
}

function PresetItem({ preset, isTried, isFavourite, onTry, onFavourite, onRemove }: ItemProps) {
  const { name, help, tags, saved } = preset;
  const download = (file: PresetFile) =>
    downloadFile(`${file.name}.json`, new Blob([writePreset(file)], { type: 'application/json' }));
  return (
    <li className={isTried ? 'preset-tried' : undefined}>
      <Button bsPrefix="preset-name" onClick={onTry}>
        {name}
        <small>{help ?? tags.join(', ')}</small>
      </Button>
      <Button
        variant="icon"
        aria-pressed={isFavourite}
        aria-label={`Favourite: ${name}`}
        title="Favourites come first"
        onClick={onFavourite}
      >
        <Star size={12} fill={isFavourite ? 'currentColor' : 'none'} aria-hidden="true" />
      </Button>
      {saved && (
        <>
          <Button
            variant="icon"
            aria-label={`Write ${name} to a file`}
            title="Write to a file"
            onClick={() => download(saved)}
          >
            <Download size={12} aria-hidden="true" />
          </Button>
          <Button variant="icon" aria-label={`Remove preset ${name}`} title="Remove" onClick={onRemove}>
            <Trash2 size={12} aria-hidden="true" />
          </Button>
        </>
      )}
    </li>
  );
}

interface SaveProps {
  readonly onSave: (preset: { name: string; tags: string[] }, onSaved: () => void) => void;
  readonly onRead: (file: File) => void;
}

function SavePreset({ onSave, onRead }: SaveProps) {
  const files = useRef<HTMLInputElement>(null);
  const { register, handleSubmit, reset, formState } = useForm({
    resolver: yupResolver(schema),
    defaultValues: UNNAMED,
  });
  const save = handleSubmit(({ name, tags }) => onSave({ name, tags: tagsIn(tags) }, () => reset()));
  const wrong = formState.errors.name ?? formState.errors.tags;
  return (
    <Form noValidate className="preset-save" onSubmit={(event) => void save(event)}>
      <Form.Control
        aria-label="Name of the new preset"
        placeholder="Name"
        isInvalid={wrong !== undefined}
        {...register('name')}
      />
      <Form.Control aria-label="Tags of the new preset" placeholder="Tags, separated by commas" {...register('tags')} />
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
      <FilePicker ref={files} label="Preset file" accept=".json,application/json" onPick={([file]) => onRead(file!)} />
      {wrong && (
        <p role="alert" className="form-error">
          {wrong.message}
        </p>
      )}
    </Form>
  );
}
