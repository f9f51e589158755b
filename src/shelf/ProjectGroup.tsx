import { useDroppable } from '@dnd-kit/core';
import { rectSortingStrategy, SortableContext } from '@dnd-kit/sortable';
import AddIcon from '@mui/icons-material/AddOutlined';
import DeleteIcon from '@mui/icons-material/DeleteOutlined';
import DownloadIcon from '@mui/icons-material/DownloadOutlined';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import InputBase from '@mui/material/InputBase';
import { useDropzone } from 'react-dropzone';
import type { Shot } from '../core/document/schema';
import { PROJECT_EXTENSION } from '../formats/project/projectMedia';
import { CLIP_TYPES, PLATE_TYPES } from '../formats/registry';
import { database } from '../store/database';
import { deleteProject, restoreProject, type Listed } from '../store/projects';
import { changeStored, duplicateShot, moveShot, placed, renameShot } from '../store/shelfWork';
import { notify } from '../studio/notices/noticeStore';
import { attempt } from './attempt';
import { fileName, saveAs } from '../store/saveAs';
import { useGrowing } from '../studio/controls/useGrowing';
import { useTyped } from '../studio/controls/useTyped';
import { ShotCard, type OtherProject } from './ShotCard';

interface Props {
  readonly item: Listed;
  /** all that a shot of it could be moved to */
  readonly projects: readonly OtherProject[];
  /** what is looked for, in lower case: shots that are called otherwise are not listed */
  readonly find: string;
  readonly onFiles: (files: File[]) => void;
}

/** What can be done with a project and its shots; each tells what it did, and how to take it back. */
function actsOn({ row, project }: Props['item']) {
  const removeProject = (): Promise<void> =>
    attempt(async () => {
      await deleteProject(database(), row.id);
      notify({ kind: 'note', text: `${row.name} was deleted.`, actions: [{ label: 'Undo', run: () => void restoreProject(database(), row.id) }] });
    });
  const removeShot = (shot: Shot, index: number): Promise<void> =>
    attempt(async () => {
      await changeStored(database(), row.id, (p) => ({ ...p, shots: p.shots.filter((s) => s.id !== shot.id) }));
      const undo = (): Promise<void> => attempt(() => changeStored(database(), row.id, (p) => ({ ...p, shots: placed(p.shots, shot, index) })));
      notify({ kind: 'note', text: `${shot.name} was deleted.`, actions: [{ label: 'Undo', run: () => void undo() }] });
    });
  const download = (): Promise<void> =>
    attempt(async () => {
      if (!project) return;
      const { exportProject } = await import('../store/files');
      saveAs(await exportProject(database(), project), `${fileName(project.name)}${PROJECT_EXTENSION}`);
    });
  const move = (shot: Shot, to: OtherProject): Promise<void> =>
    attempt(async () => {
      const was = await moveShot(database(), shot.id, row.id, { project: to.id, index: Infinity });
      const undo = (): Promise<void> => attempt(() => moveShot(database(), shot.id, to.id, was));
      notify({ kind: 'note', text: `${shot.name} is in ${to.name} now.`, actions: [{ label: 'Undo', run: () => void undo() }] });
    });
  return { removeProject, removeShot, download, move };
}

/** One project's shots. Files dropped on it, or chosen with its button, become shots of this project; a shot is put elsewhere by its grip. */
export function ProjectGroup({ item, projects, find, onFiles }: Props) {
  const { row, project, problem } = item;
  const { removeProject, removeShot, download, move } = actsOn(item);
  const wanted = project?.shots.filter((s) => find === '' || `${row.name} ${s.name}`.toLowerCase().includes(find)) ?? [];
  const shown = wanted.slice(0, useGrowing(wanted.length, 12, 4));
  // where there are shots they tell the place
  const { setNodeRef } = useDroppable({ id: row.id, data: { project: row.id }, disabled: project?.shots.length !== 0 });
  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({
    noClick: true,
    noKeyboard: true,
    noDragEventsBubbling: true,
    disabled: project === null,
    onDrop: (files) => files.length > 0 && onFiles(files),
  });
  if (find !== '' && wanted.length === 0) return null;
  return (
    <Box
      ref={setNodeRef}
      component="section"
      {...getRootProps()}
      role="region"
      tabIndex={undefined}
      aria-label={row.name}
      sx={{ marginBottom: '28px', borderRadius: '4px', outline: isDragActive ? '2px dashed var(--paper)' : 'none', outlineOffset: 8 }}
    >
      <input {...getInputProps({ accept: [...PLATE_TYPES, ...CLIP_TYPES].join(','), 'aria-label': `Pictures for ${row.name}` })} />
      <GroupHead item={item} onAdd={open} onDownload={() => void download()} onDelete={() => void removeProject()} />
      {problem && <Box sx={{ color: 'var(--alert)' }}>{problem}</Box>}
      <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(250px, 1fr))', gap: '18px' }}>
        <SortableContext items={shown.map((s) => s.id)} strategy={rectSortingStrategy}>
          {shown.map((shot) => (
            <ShotCard
              key={shot.id}
              projectId={row.id}
              shot={shot}
              sortable={find === ''}
              others={projects.filter((p) => p.id !== row.id)}
              onDelete={() => void removeShot(shot, project!.shots.indexOf(shot))}
              onRename={(name) => void attempt(() => renameShot(database(), row.id, shot.id, name))}
              onDuplicate={() => void attempt(() => duplicateShot(database(), row.id, shot.id))}
              onMoveTo={(to) => void move(shot, to)}
            />
          ))}
        </SortableContext>
      </Box>
      {project?.shots.length === 0 && <Box sx={{ color: 'var(--mute)' }}>This project holds no shots. Drop pictures here to add some.</Box>}
    </Box>
  );
}

interface HeadProps {
  readonly item: Props['item'];
  readonly onAdd: () => void;
  readonly onDownload: () => void;
  readonly onDelete: () => void;
}

/** The name of a project, how many shots there are, and what can be done with it. */
const GroupHead = ({ item: { row, project }, onAdd, onDownload, onDelete }: HeadProps) => (
  <Box sx={{ display: 'flex', alignItems: 'center', gap: '4px', marginBottom: '10px' }}>
    <ProjectName name={row.name} onRename={(name) => void attempt(() => changeStored(database(), row.id, (p) => ({ ...p, name })))} />
    <Box component="span" className="mono" sx={{ color: 'var(--mute)', flex: 1 }}>
      {project && `${project.shots.length} ${project.shots.length === 1 ? 'shot' : 'shots'}`}
    </Box>
    {project && (
      <IconButton aria-label={`Add pictures to ${row.name}`} title="Add pictures to this project" onClick={onAdd}>
        <AddIcon />
      </IconButton>
    )}
    {project && (
      <IconButton aria-label={`Download ${row.name} as a project file`} title="Download project file" onClick={onDownload}>
        <DownloadIcon />
      </IconButton>
    )}
    <IconButton aria-label={`Delete project ${row.name}`} title="Delete project" onClick={onDelete}>
      <DeleteIcon />
    </IconButton>
  </Box>
);

function ProjectName({ name, onRename }: { name: string; onRename: (name: string) => void }) {
  const typed = useTyped(name, (next) => onRename(next.slice(0, 200)));
  return (
    <InputBase
      {...typed}
      slotProps={{ input: { 'aria-label': 'Name of the project', size: Math.max(6, typed.value.length) } }}
      sx={{
        fontSize: 14,
        fontWeight: 600,
        '& input': { padding: '2px 4px', marginLeft: '-4px', borderRadius: '3px', '&:hover': { background: 'var(--raise)' } },
      }}
    />
  );
}
