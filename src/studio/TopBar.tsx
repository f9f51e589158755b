import HelpIcon from '@mui/icons-material/HelpOutlineOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import InputBase from '@mui/material/InputBase';
import MuiLink from '@mui/material/Link';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { lazy, Suspense, useEffect, useState } from 'react';
import type { Shot } from '../core/document/schema';
import { Logo } from './controls/Logo';
import { useShallow } from 'zustand/react/shallow';
import { changeShot, shotOf, useDocument } from './state/documentStore';
import { session } from './state/session';
import { useSession } from './state/sessionStore';
import { useViewPart } from './state/viewStore';
import { useGrowing } from './controls/useGrowing';
import { useTyped } from './controls/useTyped';

const LiveDialog = lazy(() => import('./bringIn/LiveDialog').then((m) => ({ default: m.LiveDialog })));

/** Mark, project and shot, saved state, undo, redo, help, export. */
export function TopBar() {
  const project = useDocument((s) => s.project?.name);
  const canUndo = useDocument((s) => s.past.length > 0);
  const canRedo = useDocument((s) => s.future.length > 0);
  const { undo, redo } = useDocument.getState();
  const { set } = useViewPart('set');
  return (
    <Box
      component="header"
      sx={{ display: 'flex', alignItems: 'center', gap: '12px', padding: '0 14px', borderBottom: '1px solid var(--line)', height: 44, flexShrink: 0 }}
    >
      <MuiLink
        component={Link}
        href="/"
        color="inherit"
        underline="none"
        aria-label="Ombrage, all shots"
        sx={{ display: 'flex', gap: '9px', alignItems: 'center', fontWeight: 650, fontSize: 15 }}
      >
        <Logo />
        Ombrage
      </MuiLink>
      {project && (
        <Box sx={{ display: 'flex', alignItems: 'center', gap: '7px', color: 'var(--mute)', minWidth: 0 }}>
          <MuiLink component={Link} href="/" color="inherit" sx={{ whiteSpace: 'nowrap' }}>
            {project}
          </MuiLink>
          <span>/</span>
          <ShotName />
          <ShotMenu />
        </Box>
      )}
      <Box sx={{ flex: 1 }} />
      <SaveState />
      <Button disabled={!canUndo} onClick={undo} title="Undo (Ctrl Z)">
        Undo
      </Button>
      <Button disabled={!canRedo} onClick={redo} title="Redo (Ctrl Shift Z)">
        Redo
      </Button>
      <IconButton aria-label="Keys and help" title="Keys (?)" onClick={() => set({ shortcuts: true })}>
        <HelpIcon />
      </IconButton>
      <Button variant="contained" onClick={() => set({ chapter: 'output' })}>
        Export…
      </Button>
    </Box>
  );
}

/** The shot's name, renamed where it stands. */
function ShotName() {
  const shotName = useDocument((s) => shotOf(s)?.name);
  const typed = useTyped(shotName ?? '', (name) => changeShot((s) => void (s.name = name.slice(0, 200))));
  if (shotName === undefined) return null;
  return (
    <InputBase
      {...typed}
      slotProps={{ input: { 'aria-label': 'Name of the shot', size: Math.max(6, typed.value.length) } }}
      sx={{
        color: 'var(--text)',
        fontWeight: 550,
        '& input': { padding: '2px 4px', borderRadius: '3px', '&:hover': { background: 'var(--raise)' } },
      }}
    />
  );
}

function ShotMenu() {
  const shotId = useDocument((s) => s.shotId);
  const projectId = useDocument((s) => s.project?.id);
  const names = useDocument(useShallow((s) => s.project?.shots.map((shot) => `${shot.id}/${shot.name}`) ?? []));
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [live, setLive] = useState(false);
  const router = useRouter();
  const add = async (shot: Shot): Promise<void> => {
    useDocument.getState().amend((p) => void p.shots.push(shot));
    await session().flush();
    setLive(false);
    router.push(`/shot?project=${projectId}&shot=${shot.id}`);
  };
  const shown = useGrowing(anchor ? names.length : 0, 30, 6);
  const shots = names.map((n) => ({ id: n.slice(0, n.indexOf('/')), name: n.slice(n.indexOf('/') + 1) }));
  return (
    <>
      <Button aria-haspopup="menu" onClick={(e) => setAnchor(e.currentTarget)} sx={{ height: 24, padding: '0 7px' }}>
        Shots
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {shots.slice(0, shown).map((s) => (
          <MenuItem
            key={s.id}
            component={Link}
            href={`/shot?project=${projectId}&shot=${s.id}`}
            selected={s.id === shotId}
            onClick={() => setAnchor(null)}
          >
            {s.name}
          </MenuItem>
        ))}
        <MenuItem
          onClick={() => {
            setAnchor(null);
            setLive(true);
          }}
          sx={{ borderTop: '1px solid var(--line)' }}
        >
          Add a live plate…
        </MenuItem>
      </Menu>
      {live && (
        <Suspense fallback={null}>
          <LiveDialog onClose={() => setLive(false)} onShot={add} />
        </Suspense>
      )}
    </>
  );
}

function SaveState() {
  const save = useSession((s) => s.save);
  const [, tick] = useState(0);
  useEffect(() => {
    const timer = setInterval(() => tick((n) => n + 1), 30000);
    return () => clearInterval(timer);
  }, []);
  if (!save) return null;
  const text = save.is === 'saved' ? `saved ${new Date(save.at).toTimeString().slice(0, 5)}` : save.is === 'saving' ? 'saving…' : 'not saved';
  return (
    <Box
      component="span"
      className="mono"
      data-testid="save-state"
      sx={{ color: save.is === 'failed' ? 'var(--alert)' : 'var(--mute)', whiteSpace: 'nowrap' }}
    >
      {text}
    </Box>
  );
}
