'use client';

import dynamic from 'next/dynamic';

const Show = dynamic(() => import('../../studio/live/Show').then((m) => m.Show), { ssr: false });

export default function Page() {
  return <Show />;
}
