'use client';

import dynamic from 'next/dynamic';

const Shelf = dynamic(() => import('../shelf/Shelf').then((m) => m.Shelf), { ssr: false });

export default function Page() {
  return <Shelf />;
}
