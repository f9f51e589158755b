'use client';

import dynamic from 'next/dynamic';
import type { ReactNode } from 'react';

// everything is made of what this browser keeps and computes: there is nothing to render on the server
const Providers = dynamic(() => import('./Providers').then((m) => m.Providers), { ssr: false });

export function ClientOnly({ children }: { children: ReactNode }) {
  return <Providers>{children}</Providers>;
}
