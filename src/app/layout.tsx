import '@fontsource-variable/hanken-grotesk';
import '@fontsource-variable/jetbrains-mono';
import type { Metadata } from 'next';
import type { ReactNode } from 'react';
import { ClientOnly } from './ClientOnly';

export const metadata: Metadata = { title: 'Ombrage', description: 'Depth maps for stills, and lens blur driven by real distances.' };

export default function RootLayout({ children }: { children: ReactNode }) {
  return (
    <html lang="en" style={{ background: '#1a1a19' }}>
      <body style={{ margin: 0 }}>
        <ClientOnly>{children}</ClientOnly>
      </body>
    </html>
  );
}
