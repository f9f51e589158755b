import '@fontsource-variable/hanken-grotesk';
import '@fontsource-variable/jetbrains-mono';
import type { Metadata } from 'next';
import type { ReactNode } from 'react';
import { ClientOnly } from './ClientOnly';

export const metadata: Metadata = {
  title: 'Ombrage',
  description: 'Depth maps for pictures, and effects driven by real distances.',
  icons: { icon: '/icons/192.png', apple: '/icons/192.png' },
};

// every page comes with a nonce of its own (src/proxy.ts)
export const dynamic = 'force-dynamic';

export default function RootLayout({ children }: { children: ReactNode }) {
  return (
    <html lang="en" style={{ background: '#1a1a19' }}>
      <body style={{ margin: 0 }}>
        <ClientOnly>{children}</ClientOnly>
      </body>
    </html>
  );
}
