import { useSortable } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import DeleteIcon from '@mui/icons-material/DeleteOutlined';
import DragIcon from '@mui/icons-material/DragIndicatorOutlined';
import MoreIcon from '@mui/icons-material/MoreHorizOutlined';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import InputBase from '@mui/material/InputBase';
import MuiLink from '@mui/material/Link';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useLiveQuery } from 'dexie-react-hooks';
import Link from 'next/link';
import { useCallback, useEffect, useRef, useState, type RefObject } from 'react';
import type { Shot } from '../core/document/schema';
import { database } from '../store/database';
import { shotState } from '../store/shotState';
import { steady } from '../studio/controls/steady';
import { useNear } from '../studio/controls/useNear';

/** Another project that a shot can go to. */
export interface OtherProject {
  readonly id: string;
  readonly name: string;
}

interface Props {
  readonly projectId: string;
  readonly shot: Shot;
  /** false while only some of the shots are listed: places mean nothing then */
  readonly sortable: boolean;
  readonly others: readonly OtherProject[];
  readonly onDelete: () => void;
  readonly onRename: (name: string) => void;
  readonly onDuplicate: () => void;
  readonly onMoveTo: (project: OtherProject) => void;
}

const OVER = { background: 'rgba(26,26,25,.85)', opacity: 0, '&:hover': { background: 'var(--raise)' } };

/** A shot on the shelf: its picture opens it; it is dragged by its grip, and what else can be done with it lies in a menu. */
export const ShotCard = steady(function ShotCard(props: Props) {
  const { projectId, shot, sortable } = props;
  const [near, card] = useNear();
  const url = useThumb(shot, near);
  const state = useLiveQuery(async () => (near ? shotState(database(), shot) : []), [shot, near]);
  const [renaming, setRenaming] = useState(false);
  const more = useRef<HTMLButtonElement>(null);
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } = useSortable({
    id: shot.id,
    data: { project: projectId },
    disabled: !sortable,
  });
  const place = useCallback(
    (element: HTMLElement | null) => {
      card(element);
      setNodeRef(element);
    },
    [card, setNodeRef],
  );
  return (
    <Box
      ref={place}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      sx={{
        position: 'relative',
        // a card far below the window is not laid out
        contentVisibility: isDragging ? 'visible' : 'auto',
        containIntrinsicSize: '250px 190px',
        zIndex: isDragging ? 3 : 0,
        '&:hover .over, &:focus-within .over': { opacity: 1 },
      }}
    >
      <Opens projectId={projectId} shot={shot} url={url} named={!renaming} />
      {renaming && (
        <Rename
          name={shot.name}
          onDone={(name, byKey) => {
            setRenaming(false);
            if (name) props.onRename(name);
            if (byKey) more.current?.focus();
          }}
        />
      )}
      {state && state.length > 0 && (
        <Box sx={{ color: 'var(--faint)', fontSize: 11 }} data-testid="shot-state">
          {state.join(', ')}
        </Box>
      )}
      {sortable && (
        <IconButton
          ref={setActivatorNodeRef}
          className="over"
          {...attributes}
          {...listeners}
          aria-label={`Move ${shot.name}`}
          title="Drag to put it elsewhere, also into another project"
          sx={{ ...OVER, position: 'absolute', top: 6, left: 6, cursor: 'grab', touchAction: 'none' }}
        >
          <DragIcon />
        </IconButton>
      )}
      <Box sx={{ position: 'absolute', top: 6, right: 6, display: 'flex', gap: '4px' }}>
        <More {...props} button={more} renaming={renaming} onRename={() => setRenaming(true)} />
        <IconButton className="over" aria-label={`Delete ${shot.name}`} title="Delete shot" onClick={props.onDelete} sx={OVER}>
          <DeleteIcon />
        </IconButton>
      </Box>
    </Box>
  );
});

interface OpensProps extends Pick<Props, 'projectId' | 'shot'> {
  readonly url: string | null;
  /** with its name under it */
  readonly named: boolean;
}

/** The picture of a shot and its name: a click opens it. */
const Opens = ({ projectId, shot, url, named }: OpensProps) => (
  <MuiLink
    component={Link}
    href={`/shot?project=${projectId}&shot=${shot.id}`}
    prefetch={false}
    color="inherit"
    underline="none"
    draggable={false}
    sx={{ display: 'block', borderRadius: '4px', '&:hover img': { outline: '1px solid var(--paper)' } }}
  >
    <Box sx={{ aspectRatio: '16 / 9', background: 'var(--surround)', borderRadius: '4px', overflow: 'hidden' }}>
      {url && (
        <Box
          component="img"
          src={url}
          alt=""
          sx={{ width: '100%', height: '100%', objectFit: 'contain', display: 'block', borderRadius: '4px', outlineOffset: -1 }}
        />
      )}
    </Box>
    {named && (
      <Box sx={{ display: 'flex', justifyContent: 'space-between', marginTop: '7px', alignItems: 'baseline', gap: '8px' }}>
        <Box component="span" sx={{ fontWeight: 550, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
          {shot.name}
        </Box>
        <Box component="span" className="mono" sx={{ color: 'var(--mute)', whiteSpace: 'nowrap' }}>
          {shot.plate.width}×{shot.plate.height}
        </Box>
      </Box>
    )}
  </MuiLink>
);

interface MoreProps extends Omit<Props, 'onRename'> {
  readonly button: RefObject<HTMLButtonElement | null>;
  readonly renaming: boolean;
  /** the name becomes a field, which has the focus then */
  readonly onRename: () => void;
}

function More({ shot, others, button, renaming, onRename, onDuplicate, onMoveTo }: MoreProps) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const then = (act: () => void) => (): void => {
    setAnchor(null);
    act();
  };
  return (
    <>
      <IconButton
        ref={button}
        className="over"
        aria-label={`More for ${shot.name}`}
        title="Rename, duplicate, move"
        aria-haspopup="menu"
        onClick={(e) => setAnchor(e.currentTarget)}
        sx={{ ...OVER, ...(anchor && { opacity: 1 }) }}
      >
        <MoreIcon />
      </IconButton>
      <Menu
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        disableRestoreFocus
        // by itself it would take the focus from the field
        slotProps={{ transition: { onExited: () => !renaming && button.current?.focus() } }}
      >
        <MenuItem onClick={then(onRename)}>Rename</MenuItem>
        <MenuItem onClick={then(onDuplicate)}>Duplicate</MenuItem>
        {others.map((other) => (
          <MenuItem key={other.id} onClick={then(() => onMoveTo(other))}>
            Move to {other.name}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}

/** The name as a field; `onDone` gets null where nothing is to change, and whether a key ended it. */
function Rename({ name, onDone }: { readonly name: string; readonly onDone: (name: string | null, byKey: boolean) => void }) {
  const [text, setText] = useState(name);
  // a field that is taken away may still say that the focus has left it
  const over = useRef(false);
  const end = (called: string | null, byKey: boolean): void => {
    if (over.current) return;
    over.current = true;
    onDone(called, byKey);
  };
  const changed = (): string | null => (text.trim() && text.trim() !== name ? text.trim() : null);
  return (
    <InputBase
      autoFocus
      value={text}
      onFocus={(e) => e.target.select()}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => end(changed(), false)}
      onKeyDown={(e) => {
        if (e.key !== 'Enter' && e.key !== 'Escape') return;
        // the button that gets the focus is not pressed by it
        e.preventDefault();
        end(e.key === 'Enter' ? changed() : null, true);
      }}
      slotProps={{ input: { 'aria-label': 'Name of the shot', maxLength: 200 } }}
      sx={{
        display: 'flex',
        marginTop: '4px',
        fontWeight: 550,
        '& input': { padding: '2px 4px', marginLeft: '-4px', background: 'var(--raise)', borderRadius: '3px' },
      }}
    />
  );
}

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
