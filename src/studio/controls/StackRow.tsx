import CopyIcon from '@mui/icons-material/ContentCopyOutlined';
import DeleteIcon from '@mui/icons-material/DeleteOutlined';
import DragIcon from '@mui/icons-material/DragIndicatorOutlined';
import LockIcon from '@mui/icons-material/LockOutlined';
import UnlockIcon from '@mui/icons-material/LockOpenOutlined';
import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import IconButton from '@mui/material/IconButton';
import InputBase from '@mui/material/InputBase';
import Switch from '@mui/material/Switch';
import { useState, type CSSProperties, type HTMLAttributes } from 'react';

export interface StackItem {
  readonly id: string;
  readonly name: string;
  readonly on: boolean;
  readonly summary: string;
  readonly locked?: boolean;
  /** of a kind that is not known here: it is kept, and can only be deleted */
  readonly unknown?: boolean;
}

export interface StackProps {
  readonly label: string;
  readonly items: readonly StackItem[];
  readonly selected: string | null;
  readonly onSelect: (id: string) => void;
  readonly onSwitch: (id: string, on: boolean) => void;
  readonly onDelete: (id: string) => void;
  /** moves an item to another place of the list; absent where the order is not for the person to choose */
  readonly onMove?: (id: string, to: number) => void;
  readonly onRename?: (id: string, name: string) => void;
  readonly onDuplicate?: (id: string) => void;
  readonly onLock?: (id: string, locked: boolean) => void;
}

/** What takes hold of a row and where it lies while it is moved; nothing in a list that is not sorted by hand. */
export interface Hold {
  readonly row?: (element: HTMLElement | null) => void;
  readonly handle?: (element: HTMLElement | null) => void;
  readonly handleProps?: HTMLAttributes<HTMLElement>;
  readonly style?: CSSProperties;
  readonly dragging?: boolean;
}

interface RowProps extends Omit<StackProps, 'label'> {
  readonly item: StackItem;
  readonly index: number;
  readonly hold: Hold;
}

/** One row of the list. */
export function StackRow(props: RowProps) {
  const { item, index, items, selected, onSwitch, onDelete, onMove, onRename, hold } = props;
  const [naming, setNaming] = useState(false);
  const chosen = item.id === selected;
  const keys = (e: React.KeyboardEvent): void => {
    if (naming) return;
    if (e.key === 'Delete') onDelete(item.id);
    else if (item.unknown) return;
    else if (e.key === 'F2' && onRename) setNaming(true);
    else if (e.altKey && (e.key === 'ArrowUp' || e.key === 'ArrowDown')) {
      e.preventDefault();
      const to = index + (e.key === 'ArrowUp' ? -1 : 1);
      if (to >= 0 && to < items.length) onMove?.(item.id, to);
    }
  };
  return (
    <Box
      ref={hold.row}
      role="listitem"
      onKeyDown={keys}
      style={hold.style}
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: '6px',
        height: 32,
        paddingLeft: onMove ? '0' : '14px',
        paddingRight: chosen ? '6px' : '14px',
        borderBottom: '1px solid var(--line)',
        ...(chosen && { background: 'var(--raise)', boxShadow: 'inset 2px 0 0 var(--paper)' }),
        ...(hold.dragging && { zIndex: 2, position: 'relative', background: 'var(--raise)' }),
      }}
    >
      {onMove && (item.unknown ? <Box sx={{ width: 12 }} /> : <Grip name={item.name} hold={hold} />)}
      {item.unknown ? (
        <LockIcon titleAccess="Not known here" sx={{ width: 28, fontSize: 14, color: 'var(--mute)' }} />
      ) : (
        <Switch checked={item.on} onChange={(_, on) => onSwitch(item.id, on)} slotProps={{ input: { 'aria-label': `${item.name} on` } }} />
      )}
      {naming ? <NameField {...props} onEnd={() => setNaming(false)} /> : <RowFace {...props} onName={() => setNaming(true)} />}
      {!chosen && item.locked && !item.unknown && <LockIcon titleAccess="Locked" sx={{ fontSize: 14, color: 'var(--mute)' }} />}
      {chosen && <Actions {...props} />}
    </Box>
  );
}

/** What a row is taken hold of by. */
function Grip({ name, hold }: { name: string; hold: Hold }) {
  return (
    <Box
      ref={hold.handle}
      {...hold.handleProps}
      {...(hold.handleProps ? { 'aria-label': `Move ${name}: drag, or Alt with the arrow keys` } : { 'aria-hidden': true })}
      title="Drag to move (Alt+↑ ↓)"
      sx={{
        display: 'flex',
        width: 16,
        marginRight: '-4px',
        cursor: 'grab',
        color: 'var(--faint)',
        touchAction: 'none',
        '& svg': { fontSize: 15 },
      }}
    >
      <DragIcon />
    </Box>
  );
}

/** The name while it is changed. */
function NameField({ item, onRename, onEnd }: RowProps & { onEnd: () => void }) {
  const rename = (text: string): void => {
    onEnd();
    if (text.trim() && text !== item.name) onRename?.(item.id, text.trim().slice(0, 200));
  };
  return (
    <InputBase
      autoFocus
      defaultValue={item.name}
      onFocus={(e) => (e.target as HTMLInputElement).select()}
      onBlur={(e) => rename(e.target.value)}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === 'Enter') rename((e.target as HTMLInputElement).value);
        else if (e.key === 'Escape') onEnd();
      }}
      inputProps={{ 'aria-label': `Name of ${item.name}` }}
      sx={{ flex: 1, minWidth: 0, borderBottom: '1px dotted var(--line2)' }}
    />
  );
}

/** Name and summary: a click chooses, a double click lets the name be changed. */
function RowFace({ item, selected, onSelect, onRename, onName }: RowProps & { onName: () => void }) {
  const named = onRename !== undefined && !item.unknown;
  return (
    <ButtonBase
      aria-pressed={item.id === selected}
      onClick={() => onSelect(item.id)}
      onDoubleClick={() => named && onName()}
      title={named ? 'Double click to rename (F2)' : undefined}
      sx={{ flex: 1, height: '100%', minWidth: 0, gap: '8px', textAlign: 'left', justifyContent: 'space-between' }}
    >
      <Box
        component="span"
        sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap', color: item.on ? 'var(--text)' : 'var(--mute)' }}
      >
        {item.name}
      </Box>
      <Box
        component="span"
        className="mono"
        sx={{ color: 'var(--mute)', whiteSpace: 'nowrap', flexShrink: 9, minWidth: 0, overflow: 'hidden', textOverflow: 'ellipsis' }}
      >
        {item.summary}
      </Box>
    </ButtonBase>
  );
}

/** What is done with the chosen row. */
function Actions({ item, onLock, onDuplicate, onDelete }: RowProps) {
  return (
    <Box sx={{ display: 'flex' }}>
      {onLock && !item.unknown && (
        <Small label={item.locked ? `Unlock ${item.name}` : `Lock ${item.name}`} onClick={() => onLock(item.id, !item.locked)}>
          {item.locked ? <LockIcon /> : <UnlockIcon />}
        </Small>
      )}
      {onDuplicate && !item.unknown && (
        <Small label={`Duplicate ${item.name}`} onClick={() => onDuplicate(item.id)}>
          <CopyIcon />
        </Small>
      )}
      <Small label={`Delete ${item.name}`} onClick={() => onDelete(item.id)}>
        <DeleteIcon />
      </Small>
    </Box>
  );
}

const Small = ({ label, onClick, children }: { label: string; onClick: () => void; children: React.ReactNode }) => (
  <IconButton aria-label={label} title={label} onClick={onClick} sx={{ padding: '2px', '& svg': { fontSize: 16 } }}>
    {children}
  </IconButton>
);
