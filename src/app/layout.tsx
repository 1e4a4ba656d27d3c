import type { Metadata } from 'next';
import type { ReactNode } from 'react';
import '@fontsource-variable/commissioner';
import 'driver.js/dist/driver.css';
import './styles/theme.scss';
import './styles/look.css';
import './styles/start.css';
import './styles/frame.css';
import './styles/cast.css';
import './styles/chain.css';
import './styles/effect.css';
import './styles/presets.css';
import './styles/routing.css';
import './styles/compare.css';
import './styles/recipes.css';
import './styles/timeline.css';
import './styles/listening.css';
import './styles/notices.css';
import './styles/modulation.css';
import './styles/pictures.css';
import './styles/room.css';
import './styles/delay.css';
import './styles/help.css';

export const metadata: Metadata = {
  title: 'Kinetikon',
  description: 'Place and animate voices and instruments with space and time',
};

export default function Layout({ children }: { children: ReactNode }) {
  return (
    <html lang="en" suppressHydrationWarning>
      <body>{children}</body>
    </html>
  );
}
