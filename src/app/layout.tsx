import type { Metadata } from 'next';
import type { ReactNode } from 'react';
import '@fontsource-variable/commissioner';
import 'driver.js/dist/driver.css';
import './styles/theme.scss';
import './styles/look.css';
import '@/features/start/start.css';
import './styles/frame.css';
import '@/features/ui/chart.css';
import '@/features/controls/drawer.css';
import '@/features/controls/plan/plan.css';
import '@/features/controls/scope.css';
import '@/features/controls/sheet.css';
import '@/features/ui/table.css';
import '@/features/notes/notes.css';
import '@/features/trackList/trackList.css';
import '@/features/effects/chain/chain.css';
import '@/features/effects/effect.css';
import '@/features/effects/presets.css';
import '@/features/stage/stage.css';
import '@/features/routing/routing.css';
import '@/features/compare/compare.css';
import '@/features/recipes/recipes.css';
import '@/features/timeline/timeline.css';
import '@/features/transport/listening.css';
import '@/features/controls/notices.css';
import '@/features/modulators/modulation.css';
import '@/features/effects/pictures/pictures.css';
import '@/features/help/help.css';

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
