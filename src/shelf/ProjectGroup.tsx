import AddIcon from '@mui/icons-material/AddOutlined';
import DeleteIcon from '@mui/icons-material/DeleteOutlined';
import DownloadIcon from '@mui/icons-material/DownloadOutlined';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import InputBase from '@mui/material/InputBase';
import MuiLink from '@mui/material/Link';
import { useLiveQuery } from 'dexie-react-hooks';
import Link from 'next/link';
import { useEffect, useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { describeError } from '../core/error';
import type { Project, Shot } from '../core/document/schema';
import { PROJECT_EXTENSION } from '../formats/projectMedia';
import { CLIP_TYPES, PLATE_TYPES } from '../formats/registry';
import { database } from '../store/database';
import { deleteProject, loadProject, restoreProject, saveProject, type Listed } from '../store/projects';
import { notify } from '../studio/controls/noticeStore';
import { fileName, saveAs } from '../studio/controls/saveAs';
import { useGrowing } from '../studio/controls/useGrowing';
import { steady } from '../studio/controls/steady';
import { useNear } from '../studio/controls/useNear';

/** Changes a stored project from outside the workspace. */
async function changeStored(id: string, change: (project: Project) => Project): Promise<void> {
  const { project, revision } = await loadProject(database(), id);
  await saveProject(database(), change(project), revision);
}

/** One project's shots. Files dropped on it, or chosen with its button, become shots of this project. */
export function ProjectGroup({ item, onFiles }: { item: Listed; onFiles: (files: File[]) => void }) {
  const { row, project, problem } = item;
  const attempt = async (work: () => Promise<unknown>): Promise<void> => {
    try {
      await work();
    } catch (error) {
      notify({ kind: 'error', text: describeError(error) });
    }
  };
  const removeProject = (): Promise<void> =>
    attempt(async () => {
      await deleteProject(database(), row.id);
      notify({ kind: 'note', text: `${row.name} was deleted.`, actions: [{ label: 'Undo', run: () => void restoreProject(database(), row.id) }] });
    });
  const removeShot = (shot: Shot, index: number): Promise<void> =>
    attempt(async () => {
      await changeStored(row.id, (p) => ({ ...p, shots: p.shots.filter((s) => s.id !== shot.id) }));
      const undo = (): Promise<void> =>
        attempt(() => changeStored(row.id, (p) => ({ ...p, shots: [...p.shots.slice(0, index), shot, ...p.shots.slice(index)] })));
      notify({ kind: 'note', text: `${shot.name} was deleted.`, actions: [{ label: 'Undo', run: () => void undo() }] });
    });
  const download = (): Promise<void> =>
    attempt(async () => {
      if (!project) return;
      const { exportProject } = await import('../store/files');
      saveAs(await exportProject(database(), project), `${fileName(project.name)}${PROJECT_EXTENSION}`);
    });
  const shown = useGrowing(project?.shots.length ?? 0, 12, 4);
  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({
    noClick: true,
    noKeyboard: true,
    noDragEventsBubbling: true,
    disabled: project === null,
    onDrop: (files) => files.length > 0 && onFiles(files),
  });
  return (
    <Box
      component="section"
      {...getRootProps()}
      role="region"
      tabIndex={undefined}
      aria-label={row.name}
      sx={{ marginBottom: '28px', borderRadius: '4px', outline: isDragActive ? '2px dashed var(--paper)' : 'none', outlineOffset: 8 }}
    >
      <input {...getInputProps({ accept: [...PLATE_TYPES, ...CLIP_TYPES].join(','), 'aria-label': `Pictures for ${row.name}` })} />
      <Box sx={{ display: 'flex', alignItems: 'center', gap: '4px', marginBottom: '10px' }}>
        <ProjectName name={row.name} onRename={(name) => void attempt(() => changeStored(row.id, (p) => ({ ...p, name })))} />
        <Box component="span" className="mono" sx={{ color: 'var(--mute)', flex: 1 }}>
          {project && `${project.shots.length} ${project.shots.length === 1 ? 'shot' : 'shots'}`}
        </Box>
        {project && (
          <IconButton aria-label={`Add pictures to ${row.name}`} title="Add pictures to this project" onClick={open}>
            <AddIcon />
          </IconButton>
        )}
        {project && (
          <IconButton aria-label={`Download ${row.name} as a project file`} title="Download project file" onClick={() => void download()}>
            <DownloadIcon />
          </IconButton>
        )}
        <IconButton aria-label={`Delete project ${row.name}`} title="Delete project" onClick={() => void removeProject()}>
          <DeleteIcon />
        </IconButton>
      </Box>
      {problem && <Box sx={{ color: 'var(--alert)' }}>{problem}</Box>}
      <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(250px, 1fr))', gap: '18px' }}>
        {project?.shots.slice(0, shown).map((shot, index) => (
          <ShotCard key={shot.id} projectId={project.id} shot={shot} onDelete={() => void removeShot(shot, index)} />
        ))}
      </Box>
      {project?.shots.length === 0 && <Box sx={{ color: 'var(--mute)' }}>This project holds no shots. Drop pictures here to add some.</Box>}
    </Box>
  );
}

function ProjectName({ name, onRename }: { name: string; onRename: (name: string) => void }) {
  const [text, setText] = useState<string | null>(null);
  const shown = text ?? name;
  return (
    <InputBase
      value={shown}
      onFocus={() => setText(name)}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => {
        const next = text?.trim();
        if (next && next !== name) onRename(next.slice(0, 200));
        setText(null);
      }}
      onKeyDown={(e) => {
        if (e.key === 'Enter') (e.target as HTMLElement).blur();
        else if (e.key === 'Escape') setText(null);
      }}
      slotProps={{ input: { 'aria-label': 'Name of the project', size: Math.max(6, shown.length) } }}
      sx={{
        fontSize: 14,
        fontWeight: 600,
        '& input': { padding: '2px 4px', marginLeft: '-4px', borderRadius: '3px', '&:hover': { background: 'var(--raise)' } },
      }}
    />
  );
}

const ShotCard = steady(function ShotCard({ projectId, shot, onDelete }: { projectId: string; shot: Shot; onDelete: () => void }) {
  const [near, card] = useNear();
  const url = useThumb(shot, near);
  return (
    <Box
      ref={card}
      sx={{
        position: 'relative',
        // a card far below the window is not laid out
        contentVisibility: 'auto',
        containIntrinsicSize: '250px 170px',
        '&:hover .shot-delete, &:focus-within .shot-delete': { opacity: 1 },
      }}
    >
      <MuiLink
        component={Link}
        href={`/shot?project=${projectId}&shot=${shot.id}`}
        prefetch={false}
        color="inherit"
        underline="none"
        sx={{ display: 'block', borderRadius: '4px', '&:hover img': { outline: '1px solid var(--paper)' } }}
      >
        <Box sx={{ aspectRatio: '16 / 9', background: 'var(--surround)', borderRadius: '4px', overflow: 'hidden' }}>
          {url && (
            <Box
              component="img"
              src={url}
              alt=""
              sx={{ width: '100%', height: '100%', objectFit: 'cover', display: 'block', borderRadius: '4px', outlineOffset: -1 }}
            />
          )}
        </Box>
        <Box sx={{ display: 'flex', justifyContent: 'space-between', marginTop: '7px', alignItems: 'baseline', gap: '8px' }}>
          <Box component="span" sx={{ fontWeight: 550, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
            {shot.name}
          </Box>
          <Box component="span" className="mono" sx={{ color: 'var(--mute)', whiteSpace: 'nowrap' }}>
            {shot.plate.width}×{shot.plate.height}
          </Box>
        </Box>
      </MuiLink>
      <IconButton
        className="shot-delete"
        aria-label={`Delete ${shot.name}`}
        title="Delete shot"
        onClick={onDelete}
        sx={{ position: 'absolute', top: 6, right: 6, background: 'rgba(26,26,25,.85)', opacity: 0, '&:hover': { background: 'var(--raise)' } }}
      >
        <DeleteIcon />
      </IconButton>
    </Box>
  );
});

/** The shot's latest picture, or its plate until there is one. */
function useThumb(shot: Shot, wanted: boolean): string | null {
  const blob = useLiveQuery(
    async () => (!wanted ? null : ((await database().thumbs.get(shot.id))?.blob ?? (await database().media.get(shot.plate.sha256))?.blob ?? null)),
    [shot.id, shot.plate.sha256, wanted],
  );
  const [url, setUrl] = useState<string | null>(null);
  useEffect(() => {
    if (!blob) return;
    const made = URL.createObjectURL(blob);
    setUrl(made);
    return () => URL.revokeObjectURL(made);
  }, [blob]);
  return url;
}
