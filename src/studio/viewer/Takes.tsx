import DeleteIcon from '@mui/icons-material/DeleteOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Divider from '@mui/material/Divider';
import IconButton from '@mui/material/IconButton';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import { newId } from '../../core/document/defaults';
import type { Shot } from '../../core/document/schema';
import { copyOf } from '../../core/values/copy';
import { changeShot, shotOf, useDocument } from '../state/documentStore';
import { isFull } from '../state/room';

/** Keeps the settings as they are now under the next letter. */
export function saveTake(): void {
  if (isFull('takes')) return;
  changeShot((shot) => {
    const id = newId();
    const name = `Take ${nextLetter(shot)}`;
    shot.takes.push({ id, name, settings: copyOf(shot.settings) });
    choose(shot, id);
  });
}

function nextLetter(shot: Shot): string {
  const used = new Set(shot.takes.map((t) => t.name));
  for (let i = 0; i < 26; i++) if (!used.has(`Take ${String.fromCharCode(65 + i)}`)) return String.fromCharCode(65 + i);
  return String(shot.takes.length + 1);
}

function choose(shot: Shot, id: string): void {
  if (shot.take !== id) shot.previousTake = shot.take;
  shot.take = id;
}

/** Brings a take's settings back. What was there before can be undone, and can be saved as a take of its own first. */
export function applyTake(id: string): void {
  changeShot((shot) => {
    const take = shot.takes.find((t) => t.id === id);
    if (!take) return;
    shot.settings = copyOf(take.settings);
    choose(shot, id);
  });
}

/** To the take chosen before, and back. */
export function flipTakes(): void {
  changeShot((shot) => {
    const other = shot.takes.find((t) => t.id === shot.previousTake && t.id !== shot.take) ?? shot.takes.find((t) => t.id !== shot.take);
    if (!other) return;
    shot.settings = copyOf(other.settings);
    choose(shot, other.id);
  });
}

/** A take in the list, and what deletes it. */
const TakeName = ({ take }: { take: Shot['takes'][number] }) => (
  <>
    <Box sx={{ flex: 1, minWidth: 90 }}>{take.name}</Box>
    <IconButton
      aria-label={`Delete ${take.name}`}
      tabIndex={-1}
      onClick={(e) => {
        e.stopPropagation();
        removeTake(take.id);
      }}
    >
      <DeleteIcon />
    </IconButton>
  </>
);

/** Variants of the shot's settings: saved, chosen, flipped between. */
export function Takes() {
  const takes = useDocument((s) => shotOf(s)?.takes);
  const take = useDocument((s) => shotOf(s)?.take);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  if (!takes) return null;
  const current = takes.find((t) => t.id === take);
  return (
    <>
      <Button onClick={(e) => setAnchor(e.currentTarget)} aria-haspopup="menu" sx={{ height: 26, flexShrink: 0 }}>
        {current ? current.name : 'Takes'}
      </Button>
      {takes.length > 1 && (
        <Button onClick={flipTakes} sx={{ height: 26, flexShrink: 0 }} title="Flip between the last two takes (t)">
          Flip
        </Button>
      )}
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {takes.map((t) => (
          <MenuItem
            key={t.id}
            selected={t.id === take}
            onClick={() => {
              applyTake(t.id);
              setAnchor(null);
            }}
            onKeyDown={(e) => {
              if (e.key === 'Delete') removeTake(t.id);
            }}
          >
            <TakeName take={t} />
          </MenuItem>
        ))}
        {takes.length > 0 && <Divider />}
        <MenuItem
          onClick={() => {
            saveTake();
            setAnchor(null);
          }}
        >
          <Box>
            Save this as a take
            {takes.length === 0 && (
              <Box sx={{ color: 'var(--mute)', fontSize: 11, whiteSpace: 'normal', maxWidth: 220 }}>
                A take keeps all settings as they are now, to flip between variants.
              </Box>
            )}
          </Box>
        </MenuItem>
      </Menu>
    </>
  );
}

function removeTake(id: string): void {
  changeShot((shot) => {
    shot.takes = shot.takes.filter((t) => t.id !== id);
    if (shot.take === id) shot.take = null;
    if (shot.previousTake === id) shot.previousTake = null;
  });
}
