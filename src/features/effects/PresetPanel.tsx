'use client';

import { useState } from 'react';
import Dropdown from 'react-bootstrap/Dropdown';
import { useStudio } from '../session/StudioContext';
import { lazyPart } from '../ui/lazyPart';
import type { OfferedPreset, PresetMenuProps } from './PresetMenu';

export type { OfferedPreset };

const PresetMenu = lazyPart('The presets', () => import('./PresetMenu').then((part) => part.PresetMenu));

interface Props extends Omit<PresetMenuProps, 'isOpen' | 'tried' | 'onTried'> {
  /** Names the button that opens the panel. */
  readonly label: string;
  readonly word: string;
  readonly variant: string;
}

/** A button that opens presets to be tried while playing. Escape takes back what was tried. */
export function PresetPanel({ label, word, variant, ...menu }: Props) {
  const studio = useStudio();
  const [isOpen, setIsOpen] = useState(false);
  const [wasOpened, setWasOpened] = useState(false);
  const [tried, setTried] = useState<string | null>(null);
  const toggle = (next: boolean, how: string | undefined) => {
    setIsOpen(next);
    setWasOpened(true);
    if (next) return;
    setTried(null);
    if (how === 'keydown') studio.editor.abandon();
    else studio.editor.settle();
  };
  return (
    <Dropdown
      align="end"
      autoClose="outside"
      show={isOpen}
      onToggle={(next, { originalEvent }) => toggle(next, originalEvent?.type)}
      className="preset-menu"
    >
      <Dropdown.Toggle variant={variant} bsPrefix="preset-toggle" aria-label={label}>
        {word}
      </Dropdown.Toggle>
      <Dropdown.Menu
        as="div"
        className="preset-panel"
        onKeyDown={(event) => event.key !== 'Escape' && event.stopPropagation()}
      >
        {wasOpened && <PresetMenu isOpen={isOpen} tried={tried} onTried={setTried} {...menu} />}
      </Dropdown.Menu>
    </Dropdown>
  );
}
