import AddIcon from '@mui/icons-material/AddOutlined';
import RemoveIcon from '@mui/icons-material/RemoveOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Popover from '@mui/material/Popover';
import Slider from '@mui/material/Slider';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Tooltip from '@mui/material/Tooltip';
import { useState } from 'react';
import { checks } from '../../core/depth/checks/registry';
import { useSession } from '../state/sessionStore';
import { viewOf, views, type ViewMode } from '../state/views';
import { useViewPart } from '../state/viewStore';
import { Takes } from './Takes';
import { useSize } from '../controls/useSize';
import { useZoom } from './useZoom';

/** From this width on everything stands side by side, px; below it all but the views is folded into one menu. */
const WIDE = 640;
/** Below this width the views are folded too, px. */
const TIGHT = 330;

/** Above the picture: what is shown, checks, takes, zoom. */
export function ViewerHead() {
  const [ref, size] = useSize<HTMLDivElement>();
  const wide = size.width === 0 || size.width >= WIDE;
  const tight = !wide && size.width < TIGHT;
  return (
    <Box
      ref={ref}
      role="toolbar"
      aria-label="Over the picture"
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: '10px',
        padding: '0 12px',
        borderBottom: '1px solid var(--line)',
        height: 38,
        minWidth: 0,
        flexShrink: 0,
        overflow: 'hidden',
        whiteSpace: 'nowrap',
      }}
    >
      {!tight && <Views />}
      {wide ? (
        <>
          <DepthView />
          <Checks />
          <Figure />
          <Takes />
          <Box sx={{ flex: 1 }} />
          <ZoomButtons />
        </>
      ) : (
        <Folded views={tight} />
      )}
    </Box>
  );
}

function Views() {
  const { mode, set } = useViewPart('mode', 'set');
  return (
    <ToggleButtonGroup exclusive size="small" value={mode} aria-label="View" onChange={(_, next: ViewMode | null) => next && set({ mode: next })}>
      {views.map(({ kind, label }) => (
        <ToggleButton key={kind} value={kind}>
          {label}
        </ToggleButton>
      ))}
    </ToggleButtonGroup>
  );
}

/** What does not fit over the picture; with the views where these do not fit either. */
function Folded({ views }: { views: boolean }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Box sx={{ flex: 1 }} />
      <Button aria-haspopup="dialog" aria-expanded={anchor !== null} onClick={(e) => setAnchor(e.currentTarget)} sx={{ height: 26 }}>
        More
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        transformOrigin={{ vertical: 'top', horizontal: 'right' }}
        slotProps={{ paper: { role: 'dialog', 'aria-label': 'More of the view' } }}
      >
        <Box sx={{ display: 'flex', flexDirection: 'column', alignItems: 'flex-start', gap: '10px', padding: '12px', whiteSpace: 'nowrap' }}>
          {views && <Views />}
          <DepthView />
          <Box sx={{ display: 'flex', gap: '8px', alignItems: 'center' }}>
            <Checks />
            <Takes />
          </Box>
          <Figure />
          <ZoomButtons />
        </Box>
      </Popover>
    </>
  );
}

/** How depth is shown, where it is. */
function DepthView() {
  const { mode, overlay, depthColours, set } = useViewPart('mode', 'overlay', 'depthColours', 'set');
  return (
    <>
      {viewOf(mode).depth === 'over' && (
        <Box sx={{ width: 116, minWidth: 84, flexShrink: 1, display: 'flex', alignItems: 'center', gap: '10px', whiteSpace: 'nowrap' }}>
          <Slider
            aria-label="Overlay opacity"
            min={0}
            max={100}
            value={100 * overlay}
            onChange={(_, v) => typeof v === 'number' && set({ overlay: v / 100 })}
          />
          <span className="mono">{Math.round(100 * overlay)} %</span>
        </Box>
      )}
      {viewOf(mode).depth && (
        <ToggleButtonGroup
          exclusive
          size="small"
          value={depthColours}
          aria-label="Colours of depth"
          onChange={(_, v: 'grey' | 'distance' | null) => v && set({ depthColours: v })}
        >
          <ToggleButton value="grey">Grey</ToggleButton>
          <ToggleButton value="distance">Near to far</ToggleButton>
        </ToggleButtonGroup>
      )}
    </>
  );
}

/** What the check found, in a figure. */
function Figure() {
  const { check } = useViewPart('check');
  const figure = useSession((s) => s.preview?.figure);
  if (!check || !figure) return null;
  return (
    <Box
      component="span"
      className="mono"
      data-testid="check-figure"
      title={figure}
      sx={{ color: 'var(--mute)', whiteSpace: 'nowrap', overflow: 'hidden', textOverflow: 'ellipsis' }}
    >
      {figure}
    </Box>
  );
}

function ZoomButtons() {
  const zoom = useZoom();
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: '2px', flexShrink: 0 }}>
      <Tooltip title="Smaller (-)">
        <IconButton aria-label="Zoom out" onClick={() => zoom.by(0.8)}>
          <RemoveIcon />
        </IconButton>
      </Tooltip>
      <Box component="span" className="mono" sx={{ color: 'var(--mute)', minWidth: 62, textAlign: 'center', whiteSpace: 'nowrap' }}>
        {zoom.fits ? `fit ${zoom.percent} %` : `${zoom.percent} %`}
      </Box>
      <Tooltip title="Larger (+)">
        <IconButton aria-label="Zoom in" onClick={() => zoom.by(1.25)}>
          <AddIcon />
        </IconButton>
      </Tooltip>
      {zoom.fits ? (
        <Button onClick={zoom.full} sx={{ height: 24, padding: '0 7px' }} title="Full size (9)">
          100 %
        </Button>
      ) : (
        <Button onClick={zoom.fit} sx={{ height: 24, padding: '0 7px' }} title="Fit (0)">
          Fit
        </Button>
      )}
    </Box>
  );
}

function Checks() {
  const { check, set } = useViewPart('check', 'set');
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const choose = (kind: string | null): void => {
    set({ check: kind });
    setAnchor(null);
  };
  return (
    <>
      <Button
        onClick={(e) => setAnchor(e.currentTarget)}
        aria-haspopup="menu"
        sx={{ height: 26, flexShrink: 0, ...(check && { borderColor: 'var(--paper)' }) }}
      >
        {checks.find((c) => c.kind === check)?.label ?? 'Checks'}
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        <MenuItem selected={check === null} onClick={() => choose(null)}>
          No check
        </MenuItem>
        {checks.map((c) => (
          <MenuItem key={c.kind} selected={c.kind === check} onClick={() => choose(c.kind)}>
            <Box>
              {c.label}
              <Box sx={{ color: 'var(--mute)', fontSize: 11 }}>{c.help}</Box>
            </Box>
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
