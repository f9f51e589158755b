import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useLiveQuery } from 'dexie-react-hooks';
import { useRouter } from 'next/navigation';
import { useCallback, useEffect, useRef, useState } from 'react';
import { CLIP_TYPES, PLATE_TYPES } from '../formats/registry';
import type { Project } from '../core/document/schema';
import { PROJECT_EXTENSION } from '../formats/projectMedia';
import { database } from '../store/database';
import { provideDemo } from '../store/demo';
import { listProjects, tidy } from '../store/projects';
import { FileDrop } from '../studio/controls/FileDrop';
import { Guard } from '../studio/controls/Guard';
import { Mark } from '../studio/controls/Mark';
import { Notices } from '../studio/controls/Notices';
import { dismiss, notify, useNotices } from '../studio/controls/noticeStore';
import { ProjectGroup } from './ProjectGroup';

let seeding: Promise<Project | null> | null = null;

/** So long the shelf lies there before it readies itself for a file, ms. */
const READY_AFTER = 1500;

/** The opening page: every shot as a large thumbnail, by project. */
export function Shelf() {
  const router = useRouter();
  const listed = useLiveQuery(() => listProjects(database()));
  const notices = useNotices((s) => s.notices);
  const [busy, setBusy] = useState<string | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement | null>(null);

  const seed = useCallback(async (first: boolean) => {
    setBusy('Bringing in the demo…');
    try {
      seeding ??= provideDemo(database(), first);
      return await seeding;
    } catch (error) {
      notify({ kind: 'error', text: 'The demo could not be brought in.', hint: error instanceof Error ? error.message : '' });
      return null;
    } finally {
      seeding = null;
      setBusy(null);
    }
  }, []);

  useEffect(() => {
    document.title = 'Ombrage';
    void tidy(database());
    if (!seeding) void seed(true);
    const ready = setTimeout(() => void import('../studio/controls/addFiles').then((m) => m.readyForFiles()), READY_AFTER);
    return () => clearTimeout(ready);
  }, [seed]);

  const bring = useCallback(
    async (files: File[], projectId: string | null = null) => {
      setBusy(files.length === 1 ? `Reading ${files[0]!.name}…` : `Reading ${files.length} files…`);
      const { addFiles } = await import('../studio/controls/addFiles');
      const { opened, errors } = await addFiles(files, projectId);
      setBusy(null);
      for (const e of errors) notify({ kind: 'error', ...e });
      if (opened) router.push(`/shot?project=${opened.project}&shot=${opened.shot}`);
    },
    [router],
  );

  const openDemo = async (): Promise<void> => {
    // one that is on its way for the first visit is the same
    await seeding;
    const demo = await seed(false);
    if (demo) router.push(`/shot?project=${demo.id}&shot=${demo.shots[0]!.id}`);
  };

  return (
    <FileDrop onFiles={(files) => void bring(files)}>
      <Box component="main" sx={{ height: '100vh', overflowY: 'auto' }}>
        <Box sx={{ maxWidth: 1180, margin: '0 auto', padding: '26px 32px 60px' }}>
          <Box component="header" sx={{ display: 'flex', alignItems: 'center', gap: '12px', marginBottom: '22px' }}>
            <Mark size={26} />
            <Box component="h1" sx={{ fontSize: 20, fontWeight: 650, margin: 0 }}>
              Ombrage
            </Box>
            <Box sx={{ flex: 1 }} />
            <Box role="status" sx={{ color: 'var(--mute)' }}>
              {busy}
            </Box>
            <Button onClick={() => void openDemo()}>Open the demo</Button>
            <Button variant="contained" onClick={() => input.current?.click()}>
              Bring in files…
            </Button>
            <Button onClick={() => folder.current?.click()}>A folder…</Button>
            <input
              ref={(element) => {
                folder.current = element;
                // React knows no name for it
                element?.setAttribute('webkitdirectory', '');
              }}
              type="file"
              hidden
              data-testid="bring-folder"
              onChange={(e) => {
                const files = Array.from(e.target.files ?? []);
                e.target.value = '';
                if (files.length > 0) void bring(files);
              }}
            />
            <input
              ref={input}
              type="file"
              multiple
              hidden
              data-testid="bring-in"
              accept={[...PLATE_TYPES, ...CLIP_TYPES, PROJECT_EXTENSION].join(',')}
              onChange={(e) => {
                const files = Array.from(e.target.files ?? []);
                e.target.value = '';
                if (files.length > 0) void bring(files);
              }}
            />
          </Box>
          {listed?.map((item) => (
            <Guard key={item.row.id} what={item.row.name}>
              <ProjectGroup item={item} onFiles={(files) => void bring(files, item.row.id)} />
            </Guard>
          ))}
          <Box
            component="button"
            onClick={() => input.current?.click()}
            sx={{
              width: '100%',
              padding: '26px',
              marginTop: '10px',
              border: '1px dashed var(--line2)',
              borderRadius: '5px',
              background: 'none',
              color: 'var(--mute)',
              font: 'inherit',
              cursor: 'pointer',
              '&:hover': { borderColor: 'var(--paper)', color: 'var(--text)' },
            }}
          >
            {listed?.length === 0 && !busy ? 'There are no shots yet. ' : ''}
            Drop files anywhere to make shots of them: pictures up to 50 megapixels, clips (MP4, MOV, MKV, WebM), animations, folders of frames. Or a
            project file.
          </Box>
        </Box>
      </Box>
      <Notices position="fixed" notices={notices} dismiss={dismiss} />
    </FileDrop>
  );
}
