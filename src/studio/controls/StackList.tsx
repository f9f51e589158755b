import DeleteIcon from '@mui/icons-material/DeleteOutlined';
import DownIcon from '@mui/icons-material/KeyboardArrowDownOutlined';
import UpIcon from '@mui/icons-material/KeyboardArrowUpOutlined';
import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import IconButton from '@mui/material/IconButton';
import Switch from '@mui/material/Switch';

export interface StackItem {
  readonly id: string;
  readonly name: string;
  readonly on: boolean;
  readonly summary: string;
}

interface Props {
  readonly label: string;
  readonly items: readonly StackItem[];
  readonly selected: string | null;
  readonly onSelect: (id: string) => void;
  readonly onSwitch: (id: string, on: boolean) => void;
  readonly onDelete: (id: string) => void;
  /** up is towards the head of the list */
  readonly onMove: (id: string, by: -1 | 1) => void;
}

/** A list of things that can be chosen, switched, moved and deleted; Alt with the arrow keys moves, Delete deletes. */
export function StackList({ label, items, selected, onSelect, onSwitch, onDelete, onMove }: Props) {
  return (
    <Box role="list" aria-label={label}>
      {items.map((item, index) => {
        const chosen = item.id === selected;
        return (
          <Box
            key={item.id}
            role="listitem"
            onKeyDown={(e) => {
              if (e.key === 'Delete') onDelete(item.id);
              else if (e.altKey && (e.key === 'ArrowUp' || e.key === 'ArrowDown')) {
                e.preventDefault();
                onMove(item.id, e.key === 'ArrowUp' ? -1 : 1);
              }
            }}
            sx={{
              display: 'flex',
              alignItems: 'center',
              gap: '8px',
              height: 32,
              paddingLeft: '14px',
              paddingRight: chosen ? '6px' : '14px',
              borderBottom: '1px solid var(--line)',
              ...(chosen && { background: 'var(--raise)', boxShadow: 'inset 2px 0 0 var(--paper)' }),
            }}
          >
            <Switch checked={item.on} onChange={(_, on) => onSwitch(item.id, on)} slotProps={{ input: { 'aria-label': `${item.name} on` } }} />
            <ButtonBase
              aria-pressed={chosen}
              onClick={() => onSelect(item.id)}
              sx={{ flex: 1, height: '100%', minWidth: 0, gap: '8px', textAlign: 'left', justifyContent: 'space-between' }}
            >
              <Box
                component="span"
                sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap', color: item.on ? 'var(--text)' : 'var(--mute)' }}
              >
                {item.name}
              </Box>
              <Box component="span" className="mono" sx={{ color: 'var(--mute)', whiteSpace: 'nowrap' }}>
                {item.summary}
              </Box>
            </ButtonBase>
            {chosen && (
              <Box sx={{ display: 'flex' }}>
                {items.length > 1 && (
                  <>
                    <IconButton
                      aria-label={`Move ${item.name} up`}
                      title="Up (Alt+↑)"
                      disabled={index === 0}
                      onClick={() => onMove(item.id, -1)}
                      sx={{ padding: '2px' }}
                    >
                      <UpIcon />
                    </IconButton>
                    <IconButton
                      aria-label={`Move ${item.name} down`}
                      title="Down (Alt+↓)"
                      disabled={index === items.length - 1}
                      onClick={() => onMove(item.id, 1)}
                      sx={{ padding: '2px' }}
                    >
                      <DownIcon />
                    </IconButton>
                  </>
                )}
                <IconButton aria-label={`Delete ${item.name}`} title="Delete" onClick={() => onDelete(item.id)} sx={{ padding: '2px' }}>
                  <DeleteIcon />
                </IconButton>
              </Box>
            )}
          </Box>
        );
      })}
    </Box>
  );
}
