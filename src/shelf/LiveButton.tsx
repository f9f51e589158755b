import Button from '@mui/material/Button';
import { useRouter } from 'next/navigation';
import { lazy, Suspense, useState } from 'react';
import type { Shot } from '../core/document/schema';

const LiveDialog = lazy(() => import('../studio/bringIn/LiveDialog').then((m) => ({ default: m.LiveDialog })));

/** Makes a shot of pictures that arrive live, in a project of its own. */
export function LiveButton() {
  const router = useRouter();
  const [open, setOpen] = useState(false);
  const add = async (shot: Shot): Promise<void> => {
    const { keepShots } = await import('../studio/bringIn/addFiles');
    const project = await keepShots([shot], null);
    router.push(`/shot?project=${project}&shot=${shot.id}`);
  };
  return (
    <>
      <Button onClick={() => setOpen(true)}>Live…</Button>
      {open && (
        <Suspense fallback={null}>
          <LiveDialog onClose={() => setOpen(false)} onShot={add} />
        </Suspense>
      )}
    </>
  );
}
