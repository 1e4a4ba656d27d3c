'use client';

import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import { beatsPerBar } from '@/core/session/records/queries';
import type { Section } from '@/core/session/records/session';
import { useStudio, useStudioState } from '../session/StudioContext';
import { loopSection, removeSection } from '../session/timeWork';
import { RenameInput } from '../controls/RenameInput';

/** The named parts of the piece; double-click or F2 renames, Delete removes. */
export function Sections() {
  const { document, pixelsPerBeat } = useStudioState(({ document, pixelsPerBeat }) => ({ document, pixelsPerBeat }));
  const sections = Object.values(document.sections).sort((a, b) => a.startBeat - b.startBeat);
  return (
    <div className="sections">
      {sections.map((section) => (
        <SectionView
          key={section.id}
          section={section}
          pixelsPerBeat={pixelsPerBeat}
          perBar={beatsPerBar(document.session)}
        />
      ))}
    </div>
  );
}

function SectionView({ section, pixelsPerBeat, perBar }: { section: Section; pixelsPerBeat: number; perBar: number }) {
  const studio = useStudio();
  const [renaming, setRenaming] = useState(false);
  const style = { left: section.startBeat * pixelsPerBeat, width: section.lengthBeats * pixelsPerBeat - 2 };
  if (renaming) {
    return (
      <RenameInput
        className="section section-rename"
        style={style}
        label={`New name of the section ${section.name}`}
        name={section.name}
        onRename={(name) =>
          studio.editor.perform({ type: 'section.set', id: section.id, values: { name } }, `Rename ${section.name}`)
        }
        onEnd={() => setRenaming(false)}
      />
    );
  }
  return (
    <Button
      bsPrefix="section"
      data-menu={`section ${section.id}`}
      style={style}
      title={`${section.name}: bar ${section.startBeat / perBar + 1}. Click puts the playhead here, Shift-click loops it, double-click renames`}
      onClick={(event) => {
        studio.transport.seekBeat(section.startBeat);
        if (event.shiftKey) loopSection(studio, section);
      }}
      onDoubleClick={() => setRenaming(true)}
      onKeyDown={(event) => {
        if (event.key === 'F2') setRenaming(true);
        if (event.key !== 'Delete') return;
        event.preventDefault();
        removeSection(studio, section);
      }}
    >
      {section.name}
    </Button>
  );
}
