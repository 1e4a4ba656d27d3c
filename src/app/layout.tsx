import type { Metadata } from 'next';
import type { ReactNode } from 'react';
import '@fontsource-variable/commissioner';
import 'bootstrap/dist/css/bootstrap.min.css';
import './look.css';
import './studio.css';

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
