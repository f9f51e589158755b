'use client';

import { useEffect } from 'react';
import { notify } from '../studio/notices/noticeStore';

/** Keeps the application for use without network, and says when a newer version waits. */
export function Offline() {
  useEffect(() => {
    // browsers grant this on localhost and over TLS alone
    if (process.env.NODE_ENV !== 'production' || !('serviceWorker' in navigator)) return;
    // the page comes first
    const start = setTimeout(() => void begin().catch(() => undefined), 2500);
    return () => clearTimeout(start);
  }, []);
  return null;
}

async function begin(): Promise<void> {
  const { Serwist } = await import('@serwist/window');
  const worker = new Serwist('/offline.js', { scope: '/' });
  let taken = false;
  worker.addEventListener('waiting', () => {
    notify({
      kind: 'note',
      text: 'A newer version of Ombrage is here.',
      hint: 'It comes by itself when every window of Ombrage was closed once.',
      actions: [
        {
          label: 'Use it now',
          run: () => {
            taken = true;
            worker.messageSkipWaiting();
          },
        },
      ],
    });
  });
  worker.addEventListener('controlling', () => {
    if (taken) window.location.reload();
  });
  await worker.register();
}
