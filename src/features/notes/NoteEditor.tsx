'use client';

import { useRef, useState } from 'react';
import { FileDown, FileUp, Piano, X } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { effectById } from '@/core/effects/registry';
import { readMidi, writeMidiFile } from '@/core/formats/midi';
import {
  chordNotes,
  laterCopies,
  noteCommand,
  notesOf,
  quantisedNotes,
  repeatDistance,
  snappedToScale,
  spanOf,
  transposedByDegrees,
  movedNotes,
} from '@/core/session/noteEdits';
import { beatsPerBar, channels, stripOf, stripOfInsert } from '@/core/session/records/queries';
import type { Note } from '@/core/session/records/lanes';
import type { SessionDocument } from '@/core/session/records/document';
import { scaleOf } from '@/core/session/scales';
import type { Command, NoteChange } from '@/core/session/commands';
import { newId } from '../session/newId';
import { useStudio, useStudioState } from '../session/StudioContext';
import { FilePicker } from '../ui/FilePicker';
import { downloadFile } from '../ui/downloadFile';
import { snapTo } from '../ui/music';
import { NoteGrid } from './NoteGrid';

const STRENGTHS = [100, 75, 50, 25] as const;
const GRIDS = [
  ['bar', 'bar'],
  ['1', '1/4'],
  ['0.5', '1/8'],
  ['0.3333333333333333', '1/8 triplet'],
  ['0.25', '1/16'],
  ['0.125', '1/32'],
] as const;

/** A file whose notes wait to be chosen from. */
interface FileParts {
  readonly name: string;
  readonly tempoBpm: number | null;
  /** By part, as are the names. */
  readonly notes: readonly (readonly Note[])[];
  readonly names: readonly string[];
}

/** Whose notes are shown, in words. */
function ownerName(document: SessionDocument, ownerId: string): string {
  const insert = document.inserts[ownerId];
  if (!insert) return stripOf(document, ownerId)?.name ?? '';
  return `${effectById(insert.effect).name} on ${stripOfInsert(document, ownerId)?.name ?? ''}, its own`;
}

/** Everyone who can have notes: tracks and returns, and effects that play notes of their own. */
function owners(document: SessionDocument): string[] {
  const own = Object.values(document.inserts).filter(({ id, notesFrom }) => notesFrom === id);
  return [...channels(document).map(({ id }) => id), ...own.map(({ id }) => id)];
}

/** The notes of a strip or an effect on the lines of the key, under the timeline. */
export function NoteEditor() {
  const studio = useStudio();
  const ownerId = useStudioState(({ notesFor }) => notesFor);
  if (ownerId === null) return null;
  return (
    <section className="note-editor" aria-label="Notes">
      <NoteTools ownerId={ownerId} />
      <NoteGrid key={ownerId} ownerId={ownerId} />
      <Button
        variant="icon"
        className="note-close"
        aria-label="Close the notes"
        title="Close"
        onClick={() => studio.set({ notesFor: null, noteIds: [] })}
      >
        <X size={14} aria-hidden="true" />
      </Button>
    </section>
  );
}

interface ToolProps {
  /** Notes that tools work on: the chosen ones, or all. */
  readonly chosen: readonly Note[];
}

/** Changes of notes as undoable steps; notes that are added are chosen. */
function useNoteChanges() {
  const studio = useStudio();
  return {
    change: (changes: readonly NoteChange[], what: string) => {
      const command = noteCommand(studio.state.document, changes);
      if (command) studio.editor.perform(command, what);
    },
    add: (notes: readonly Note[], what: string, tempoBpm: number | null = null) => {
      if (notes.length === 0) return;
      const added: Command = { type: 'note.add', notes };
      const command: Command =
        tempoBpm === null ? added : { type: 'all', commands: [{ type: 'session.set', values: { tempoBpm } }, added] };
      if (studio.editor.perform(command, what)) studio.set({ noteIds: notes.map(({ id }) => id) });
    },
  };
}

function NoteTools({ ownerId }: { readonly ownerId: string }) {
  const studio = useStudio();
  const { document, noteIds, snapKey, keyboard } = useStudioState((state) => ({
    document: state.document,
    noteIds: state.noteIds,
    snapKey: state.snapKey,
    keyboard: state.keyboard,
  }));
  const [grid, setGrid] = useState('0.5');
  const { change, add } = useNoteChanges();
  const all = notesOf(document, ownerId);
  const chosen = noteIds.length > 0 ? all.filter(({ id }) => noteIds.includes(id)) : all;
  const perBar = beatsPerBar(document.session);
  const gridBeats = grid === 'bar' ? perBar : Number(grid);
  const none = chosen.length === 0;
  return (
    <div className="note-tools" role="toolbar" aria-label="Note tools">
      <label className="tool-choice">
        notes of
        <Form.Select
          aria-label="Notes of"
          value={ownerId}
          onChange={(event) => studio.set({ notesFor: event.target.value, noteIds: [] })}
        >
          {owners(document).map((id) => (
            <option key={id} value={id}>
              {ownerName(document, id)}
            </option>
          ))}
        </Form.Select>
      </label>
      <Form.Check
        type="switch"
        id="snap-key"
        label="in the key"
        checked={snapKey}
        title="Notes that are drawn or moved keep to the session's key"
        onChange={(event) => studio.set({ snapKey: event.target.checked })}
      />
      <Button
        variant="plain"
        disabled={none}
        title="Put notes that are beside the key on its nearest ones"
        onClick={() => change(snappedToScale(chosen, scaleOf(document.session)), 'Put notes into the key')}
      >
        Into key
      </Button>
      <Transposition chosen={chosen} />
      <ChordField ownerId={ownerId} gridBeats={gridBeats} />
      <label className="tool-choice">
        grid
        <Form.Select aria-label="Grid for quantising" value={grid} onChange={(event) => setGrid(event.target.value)}>
          {GRIDS.map(([id, name]) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </Form.Select>
      </label>
      <Quantising chosen={chosen} gridBeats={gridBeats} />
      <Button
        variant="plain"
        disabled={none}
        title="The same again, bars later"
        onClick={() => add(laterCopies(chosen, repeatDistance(chosen, perBar), newId), 'Repeat notes')}
      >
        Repeat
      </Button>
      <span className="tool-gap" />
      <MidiFiles ownerId={ownerId} />
      <Button
        variant="icon"
        aria-pressed={keyboard}
        aria-label="Keyboard"
        title="Play by hand: on the screen, by computer keys or MIDI"
        onClick={() => studio.set({ keyboard: !keyboard })}
      >
        <Piano size={15} aria-hidden="true" />
      </Button>
    </div>
  );
}

function Transposition({ chosen }: ToolProps) {
  const session = useStudioState(({ document }) => document.session);
  const { change } = useNoteChanges();
  const none = chosen.length === 0;
  const bySteps = (steps: number) => change(transposedByDegrees(chosen, steps, scaleOf(session)), 'Transpose notes');
  const byKeys = (keys: number) => change(movedNotes(chosen, 0, keys), 'Transpose notes');
  const buttons = [
    ['− step', 'A step of the key down', () => bySteps(-1)],
    ['+ step', 'A step of the key up', () => bySteps(1)],
    ['− oct', 'An octave down', () => byKeys(-12)],
    ['+ oct', 'An octave up', () => byKeys(12)],
  ] as const;
  return (
    <span className="note-steps" role="group" aria-label="Transpose">
      {buttons.map(([word, name, transpose]) => (
        <Button key={word} variant="plain" disabled={none} aria-label={name} title={name} onClick={transpose}>
          {word}
        </Button>
      ))}
    </span>
  );
}

/** A chord by its name, a bar long, at the playhead. */
function ChordField({ ownerId, gridBeats }: { readonly ownerId: string; readonly gridBeats: number }) {
  const studio = useStudio();
  const [chord, setChord] = useState('');
  const { add } = useNoteChanges();
  const addChord = () => {
    const startBeat = Math.max(0, snapTo(studio.transport.heardBeat, gridBeats));
    try {
      add(
        chordNotes(
          chord,
          { ownerId, startBeat, lengthBeats: beatsPerBar(studio.state.document.session), velocity: 96 },
          newId,
        ),
        `Chord ${chord.trim()}`,
      );
      setChord('');
    } catch (error) {
      studio.messages.report(error);
    }
  };
  return (
    <Form
      className="note-chord"
      onSubmit={(event) => {
        event.preventDefault();
        addChord();
      }}
    >
      <Form.Control
        aria-label="Chord at the playhead"
        placeholder="Dm7"
        value={chord}
        title="A chord by its name, a bar long, at the playhead: Enter"
        onChange={(event) => setChord(event.target.value)}
      />
      <Button variant="plain" type="submit" disabled={chord.trim() === ''}>
        Chord
      </Button>
    </Form>
  );
}

function Quantising({ chosen, gridBeats }: ToolProps & { readonly gridBeats: number }) {
  const [strength, setStrength] = useState('100');
  const { change } = useNoteChanges();
  return (
    <>
      <Form.Select
        aria-label="Strength of quantising"
        value={strength}
        onChange={(event) => setStrength(event.target.value)}
      >
        {STRENGTHS.map((one) => (
          <option key={one} value={one}>
            {one} %
          </option>
        ))}
      </Form.Select>
      <Button
        variant="plain"
        disabled={chosen.length === 0}
        title="Bring beginnings onto the grid"
        onClick={() => change(quantisedNotes(chosen, gridBeats, Number(strength) / 100), 'Quantise notes')}
      >
        Quantise
      </Button>
    </>
  );
}

/** Notes from a MIDI file and into one. */
function MidiFiles({ ownerId }: { readonly ownerId: string }) {
  const studio = useStudio();
  const document = useStudioState((state) => state.document);
  const [parts, setParts] = useState<FileParts | null>(null);
  const files = useRef<HTMLInputElement>(null);
  const { add } = useNoteChanges();
  const all = notesOf(document, ownerId);
  const bringIn = async (file: File) => {
    try {
      const song = readMidi(new Uint8Array(await file.arrayBuffer()));
      const perBar = beatsPerBar(document.session);
      const at = Math.floor(studio.transport.heardBeat / perBar + 1e-6) * perBar;
      const notes = song.parts.map((part) =>
        part.notes.map((note): Note => ({ ...note, id: newId(), ownerId, startBeat: note.startBeat + at })),
      );
      const names = song.parts.map(({ name }) => name);
      if (notes.length === 1 && song.tempoBpm === null) add(notes[0]!, `Bring in ${file.name}`);
      else setParts({ name: file.name, tempoBpm: song.tempoBpm, notes, names });
    } catch (error) {
      studio.messages.report(error);
    }
  };
  const takeOut = () => {
    const name = ownerName(document, ownerId);
    const bytes = writeMidiFile([{ name, notes: all }], document.session);
    downloadFile(`${name}.mid`, new Blob([bytes], { type: 'audio/midi' }));
  };
  return (
    <>
      <Button
        variant="icon"
        aria-label="Bring in a MIDI file"
        title="Bring in a MIDI file at the playhead's bar"
        onClick={() => files.current!.click()}
      >
        <FileUp size={14} aria-hidden="true" />
      </Button>
      <FilePicker
        ref={files}
        label="MIDI file"
        accept=".mid,.midi,audio/midi"
        onPick={([file]) => void bringIn(file!)}
      />
      <Button
        variant="icon"
        disabled={all.length === 0}
        aria-label="Take the notes out as a MIDI file"
        title="Take the notes out as a MIDI file"
        onClick={takeOut}
      >
        <FileDown size={14} aria-hidden="true" />
      </Button>
      {parts && (
        <MidiChoice
          parts={parts}
          onChosen={(notes, tempoBpm) => {
            setParts(null);
            add(notes, `Bring in ${parts.name}`, tempoBpm);
          }}
        />
      )}
    </>
  );
}

/** Which part of a file is taken, and whether its tempo is. */
function MidiChoice(props: {
  readonly parts: FileParts;
  readonly onChosen: (notes: readonly Note[], tempoBpm: number | null) => void;
}) {
  const { parts, onChosen } = props;
  const [part, setPart] = useState('0');
  const [tempo, setTempo] = useState(false);
  const taken = part === 'all' ? parts.notes.flat() : (parts.notes[Number(part)] ?? []);
  const span = taken.length > 0 ? spanOf(taken) : { from: 0, to: 0 };
  return (
    <div className="note-file" role="group" aria-label="MIDI file">
      <Form.Select aria-label="Part of the file" value={part} onChange={(event) => setPart(event.target.value)}>
        {parts.names.map((name, n) => (
          <option key={n} value={n}>
            {name}: {parts.notes[n]!.length} notes
          </option>
        ))}
        {parts.names.length > 1 && <option value="all">all parts together</option>}
      </Form.Select>
      <small>{(span.to - span.from).toFixed(1)} beats</small>
      {parts.tempoBpm !== null && (
        <Form.Check
          type="switch"
          id="file-tempo"
          label={`take its tempo, ${parts.tempoBpm}`}
          checked={tempo}
          onChange={(event) => setTempo(event.target.checked)}
        />
      )}
      <Button
        variant="solid"
        disabled={taken.length === 0}
        onClick={() => onChosen(taken, tempo ? parts.tempoBpm : null)}
      >
        Bring in
      </Button>
      <Button variant="line" onClick={() => onChosen([], null)}>
        Leave it
      </Button>
    </div>
  );
}
