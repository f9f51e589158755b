import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type Announcements,
  type DragEndEvent,
  type UniqueIdentifier,
} from '@dnd-kit/core';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import InputBase from '@mui/material/InputBase';
import { useLiveQuery } from 'dexie-react-hooks';
import { useRouter } from 'next/navigation';
import { useCallback, useEffect, useRef, useState, type Ref } from 'react';
import { CLIP_TYPES, PLATE_TYPES } from '../formats/registry';
import type { Project } from '../core/document/schema';
import { PROJECT_EXTENSION } from '../formats/project/projectMedia';
import { database } from '../store/database';
import { onlyDemo, provideDemo } from '../store/demo';
import { listProjects, tidy, type Listed } from '../store/projects';
import { moveShot } from '../store/shelfWork';
import { FileDrop } from '../studio/bringIn/FileDrop';
import { Guard } from '../studio/controls/Guard';
import { Logo } from '../studio/controls/Logo';
import { Notices } from '../studio/notices/Notices';
import { dismiss, notify, useNotices } from '../studio/notices/noticeStore';
import { arrowTarget } from './arrowTarget';
import { attempt } from './attempt';
import { FirstVisit } from './FirstVisit';
import { LiveButton } from './LiveButton';
import { ProjectGroup } from './ProjectGroup';

let seeding: Promise<Project | null> | null = null;

/** So long the shelf lies there before it readies itself for a file, ms. */
const READY_AFTER = 1500;
/** With so many shots they can be looked for. */
const MANY = 12;

/** The opening page: every shot as a large thumbnail, by project. */
export function Shelf() {
  const router = useRouter();
  const listed = useLiveQuery(() => listProjects(database()));
  const notices = useNotices((s) => s.notices);
  const [busy, setBusy] = useState<string | null>(null);
  const [find, setFind] = useState('');
  const input = useRef<HTMLInputElement>(null);

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
    const ready = setTimeout(() => void import('../studio/bringIn/addFiles').then((m) => m.readyForFiles()), READY_AFTER);
    return () => clearTimeout(ready);
  }, [seed]);

  const bring = useCallback(
    async (files: File[], projectId: string | null = null) => {
      setBusy(files.length === 1 ? `Reading ${files[0]!.name}…` : `Reading ${files.length} files…`);
      const { addFiles } = await import('../studio/bringIn/addFiles');
      const { opened, errors } = await addFiles(files, projectId);
      setBusy(null);
      for (const e of errors) notify({ kind: 'error', ...e });
      if (opened) router.push(`/shot?project=${opened.project}&shot=${opened.shot}`);
    },
    [router],
  );

  const demo = listed ? onlyDemo(listed.map((l) => l.project)) : null;
  const many = (listed?.reduce((sum, l) => sum + (l.project?.shots.length ?? 0), 0) ?? 0) >= MANY;

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
          <ShelfHead
            busy={busy}
            find={many || find !== '' ? find : null}
            onFind={setFind}
            onDemo={() => void openDemo()}
            onBring={() => input.current?.click()}
            onFiles={(files) => void bring(files)}
          />
          <FileInput
            ref={input}
            name="bring-in"
            accept={[...PLATE_TYPES, ...CLIP_TYPES, PROJECT_EXTENSION].join(',')}
            onFiles={(files) => void bring(files)}
          />
          {listed && <Projects listed={listed} find={find.trim().toLowerCase()} onFiles={(files, project) => void bring(files, project)} />}
          {demo && <FirstVisit demo={demo} />}
          <BringHere empty={listed?.length === 0 && !busy} onBring={() => input.current?.click()} />
        </Box>
      </Box>
      <Notices position="fixed" notices={notices} dismiss={dismiss} />
    </FileDrop>
  );
}

interface HeadProps {
  readonly busy: string | null;
  /** what is looked for; null where there is too little to look for anything */
  readonly find: string | null;
  readonly onFind: (text: string) => void;
  readonly onDemo: () => void;
  readonly onBring: () => void;
  readonly onFiles: (files: File[]) => void;
}

function ShelfHead({ busy, find, onFind, onDemo, onBring, onFiles }: HeadProps) {
  const folder = useRef<HTMLInputElement | null>(null);
  return (
    <Box component="header" sx={{ display: 'flex', alignItems: 'center', gap: '12px', marginBottom: '22px' }}>
      <Logo size={26} />
      <Box component="h1" sx={{ fontSize: 20, fontWeight: 650, margin: 0 }}>
        Ombrage
      </Box>
      <Box sx={{ flex: 1 }} />
      <Box role="status" sx={{ color: 'var(--mute)' }}>
        {busy}
      </Box>
      {find !== null && (
        <InputBase
          type="search"
          value={find}
          onChange={(e) => onFind(e.target.value)}
          placeholder="Find a shot"
          slotProps={{ input: { 'aria-label': 'Find a shot' } }}
          sx={{ width: 170, border: '1px solid var(--line2)', borderRadius: '4px', padding: '2px 9px' }}
        />
      )}
      <Button onClick={onDemo}>Open the demo</Button>
      <Button variant="contained" onClick={onBring}>
        Bring in files…
      </Button>
      <Button onClick={() => folder.current?.click()}>A folder…</Button>
      <LiveButton />
      <FileInput
        // React knows no name for it
        ref={(element) => {
          folder.current = element;
          element?.setAttribute('webkitdirectory', '');
        }}
        name="bring-folder"
        onFiles={onFiles}
      />
    </Box>
  );
}

interface InputProps {
  readonly ref: Ref<HTMLInputElement>;
  readonly name: string;
  readonly accept?: string;
  readonly onFiles: (files: File[]) => void;
}

/** What the browser asks for files with. */
function FileInput({ ref, name, accept, onFiles }: InputProps) {
  return (
    <input
      ref={ref}
      type="file"
      multiple
      hidden
      data-testid={name}
      accept={accept}
      onChange={(e) => {
        const files = Array.from(e.target.files ?? []);
        e.target.value = '';
        if (files.length > 0) onFiles(files);
      }}
    />
  );
}

/** Where files may be dropped, and what may be brought. */
function BringHere({ empty, onBring }: { empty: boolean; onBring: () => void }) {
  return (
    <Box
      component="button"
      onClick={onBring}
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
      {empty ? 'There are no shots yet. ' : ''}
      Drop files anywhere to make shots of them: pictures up to 50 megapixels, clips (MP4, MOV, MKV, WebM), animations, folders of frames. Or a
      project file.
    </Box>
  );
}

interface ProjectsProps {
  readonly listed: readonly Listed[];
  readonly find: string;
  readonly onFiles: (files: File[], project: string) => void;
}

const screenReaderInstructions = { draggable: 'Enter picks the shot up, arrow keys move it, Enter puts it down, Escape leaves it where it was.' };

/** What readers are told while a shot is put elsewhere. */
function said(listed: readonly Listed[]): Announcements {
  const placeOf = (id: UniqueIdentifier): string => {
    for (const { row, project } of listed) {
      const at = project?.shots.findIndex((s) => s.id === id) ?? -1;
      if (at >= 0) return `place ${at + 1} of ${project!.shots.length} in ${row.name}`;
      if (row.id === id) return `the end of ${row.name}`;
    }
    return 'no place';
  };
  const nameOf = (id: UniqueIdentifier): string => listed.flatMap((l) => l.project?.shots ?? []).find((s) => s.id === id)?.name ?? 'The shot';
  return {
    onDragStart: ({ active }) => `${nameOf(active.id)} is picked up at ${placeOf(active.id)}.`,
    onDragOver: ({ active, over }) => (over ? `${nameOf(active.id)} is at ${placeOf(over.id)}.` : undefined),
    onDragEnd: ({ active, over }) => `${nameOf(active.id)} is put down at ${placeOf(over?.id ?? active.id)}.`,
    onDragCancel: ({ active }) => `${nameOf(active.id)} stays where it was.`,
  };
}

/** All projects; their shots are dragged about among them. */
function Projects({ listed, find, onFiles }: ProjectsProps) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: arrowTarget }),
  );
  const projects = listed.filter((l) => l.project).map(({ row: { id, name } }) => ({ id, name }));
  const dropped = ({ active, over }: DragEndEvent): void => {
    const [from, to] = [active, over].map((end) => (end?.data.current as { readonly project: string } | undefined)?.project);
    if (!over || active.id === over.id || !from || !to) return;
    // on a shot: at its place; on a project: at its end
    const at = listed.find((l) => l.row.id === to)?.project?.shots.findIndex((s) => s.id === over.id) ?? -1;
    void attempt(() => moveShot(database(), String(active.id), from, { project: to, index: at < 0 ? Infinity : at }));
  };
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={closestCenter}
      accessibility={{ announcements: said(listed), screenReaderInstructions }}
      onDragEnd={dropped}
    >
      {listed.map((item) => (
        <Guard key={item.row.id} what={item.row.name}>
          <ProjectGroup item={item} projects={projects} find={find} onFiles={(files) => onFiles(files, item.row.id)} />
        </Guard>
      ))}
      {find !== '' && !listed.some(({ row, project }) => project?.shots.some((s) => `${row.name} ${s.name}`.toLowerCase().includes(find))) && (
        <Box role="status" sx={{ color: 'var(--mute)', marginBottom: '18px' }}>
          No shot is called that.
        </Box>
      )}
    </DndContext>
  );
}
