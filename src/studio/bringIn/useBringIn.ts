import { useRouter } from 'next/navigation';
import { useCallback } from 'react';
import { session } from '../state/session';
import { useDocument } from '../state/documentStore';
import { notify } from '../notices/noticeStore';

/** Brings files into the open project as shots, and opens the first of them. */
export function useBringIn(): (files: readonly File[]) => Promise<void> {
  const router = useRouter();
  return useCallback(
    async (files) => {
      const { addFiles, keepInOpen } = await import('./addFiles');
      const { project } = useDocument.getState();
      const { opened, errors } = await addFiles(files, project?.id ?? null, keepInOpen);
      for (const e of errors) notify({ kind: 'error', ...e });
      if (!opened) return;
      await session().flush();
      router.push(`/shot?project=${opened.project}&shot=${opened.shot}`);
    },
    [router],
  );
}
