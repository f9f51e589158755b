'use client';

import dynamic from 'next/dynamic';

const Studio = dynamic(() => import('../../studio/Studio').then((m) => m.Studio), { ssr: false });

export default function Page() {
  return <Studio />;
}
