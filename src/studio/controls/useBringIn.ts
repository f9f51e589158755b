import { useRouter } from 'next/navigation';
import { useCallback } from 'react';
import { session } from '../state/session';
import { useDocument } from '../state/documentStore';
import { notify } from './noticeStore';

/** Brings files into the open project as shots, and opens the first of them. */
export function useBringIn(): (files: readonly File[]) => Promise<void> {
  const router = useRouter();
  return useCallback(
    async (files) => {
      await session().flush();
      const { addFiles } = await import('./addFiles');
      const { opened, errors } = await addFiles(files, useDocument.getState().project?.id ?? null);
      for (const e of errors) notify({ kind: 'error', ...e });
      if (!opened) return;
      // this project got a shot: what is open must know it before it saves again
      router.push(`/shot?project=${opened.project}&shot=${opened.shot}`);
    },
    [router],
  );
}
