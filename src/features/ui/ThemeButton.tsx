'use client';

import { Contrast, Moon, Sun } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import { setTheme, THEMES, useTheme } from './theme';

const NAMES = { system: 'as the system', paper: 'paper', night: 'night' } as const;
const ICONS = { system: Contrast, paper: Sun, night: Moon } as const;

export function ThemeButton() {
  const theme = useTheme();
  const next = THEMES[(THEMES.indexOf(theme) + 1) % THEMES.length]!;
  const Icon = ICONS[theme];
  return (
    <Button
      variant="icon"
      aria-label={`Look: ${NAMES[theme]}. Change to ${NAMES[next]}`}
      title={`Look: ${NAMES[theme]}`}
      onClick={() => setTheme(next)}
    >
      <Icon size={16} aria-hidden="true" />
    </Button>
  );
}
