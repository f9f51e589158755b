import FirstIcon from '@mui/icons-material/FirstPageOutlined';
import LastIcon from '@mui/icons-material/LastPageOutlined';
import LoopIcon from '@mui/icons-material/LoopOutlined';
import NextIcon from '@mui/icons-material/ChevronRightOutlined';
import PauseIcon from '@mui/icons-material/PauseOutlined';
import PlayIcon from '@mui/icons-material/PlayArrowOutlined';
import PreviousIcon from '@mui/icons-material/ChevronLeftOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import MenuItem from '@mui/material/MenuItem';
import Popover from '@mui/material/Popover';
import Select from '@mui/material/Select';
import { useState } from 'react';
import { loops } from '../../core/path/path';
import { playedRange } from '../../core/document/driven';
import { withSignalsPlayed } from '../../core/document/signals';
import { TIME_LIMIT } from '../../core/limits';
import { copyOf } from '../../core/values/copy';
import type { Shot } from '../../core/document/schema';
import { RATES } from '../../core/values/moment';
import { frames } from '../../core/values/params';
import { NumberRow } from '../controls/NumberRow';
import { END, NAME_LEFT, NAME_WIDE } from '../score/measures';
import { LabelRow } from '../controls/rows';
import { changeSettings, changeShot } from '../state/documentStore';
import { useLive } from '../state/liveStore';
import { goTo, player, playOrPause, step } from '../state/playback';
import { useView, useViewPart } from '../state/viewStore';

const LENGTH = frames({ label: 'Length', min: 2, max: 480, lowest: 1, highest: TIME_LIMIT, default: 96, help: 'Frames, or seconds such as 4 s' });

/** What a narrow window leaves out: keys do the same, and what is set stands in the dialog. */
const WHERE_WIDE = { '@container (max-width: 480px)': { display: 'none' } };

/** The time at the playhead, playing and stepping, how many frames are ready, length and rate. */
export function Transport({ shot }: { shot: Shot }) {
  const { time } = shot.settings;
  const { from, to } = playedRange(shot.settings);
  return (
    <Box
      role="toolbar"
      aria-label="Playing"
      sx={{
        display: 'grid',
        gridTemplateColumns: `${NAME_WIDE}px auto minmax(0,1fr)`,
        columnGap: '10px',
        alignItems: 'center',
        padding: `3px ${END}px 0 ${NAME_LEFT}px`,
        height: 30,
        whiteSpace: 'nowrap',
        color: 'var(--mute)',
        containerType: 'inline-size',
      }}
    >
      <Time length={time.length} fps={time.fps} />
      <Buttons from={from} to={to} />
      <Box
        className="mono"
        sx={{
          display: 'flex',
          justifyContent: 'flex-end',
          alignItems: 'center',
          gap: '12px',
          minWidth: 0,
          '& > span': { '@container (max-width: 600px)': { display: 'none' } },
        }}
      >
        <Ready />
        {loops(shot.settings) && <span title="The first frame follows the last one without a jump">loops</span>}
        <Length time={time} from={from} to={to} />
      </Box>
    </Box>
  );
}

/** Playing, and stepping from frame to frame. */
function Buttons({ from, to }: { from: number; to: number }) {
  const { playing, loop, set } = useViewPart('playing', 'loop', 'set');
  const live = useLive((s) => s.is);
  const runs = live === 'off' ? playing : live !== 'frozen' && live !== 'gone';
  const words = live === 'off' ? ['Play', 'Pause'] : ['Go on', 'Freeze'];
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: '2px', '& svg': { fontSize: 18 } }}>
      <IconButton aria-label="To the first frame" title="To the first frame (Home)" onClick={() => goTo(from)} sx={WHERE_WIDE}>
        <FirstIcon />
      </IconButton>
      <IconButton aria-label="One frame back" title="One frame back (,)" onClick={() => step(-1)}>
        <PreviousIcon />
      </IconButton>
      <Button aria-pressed={runs} title="Space" onClick={playOrPause} sx={{ height: 24, minWidth: 84, padding: '0 8px' }}>
        {runs ? <PauseIcon /> : <PlayIcon />}
        {words[Number(runs)]}
      </Button>
      <IconButton aria-label="One frame on" title="One frame on (.)" onClick={() => step(1)}>
        <NextIcon />
      </IconButton>
      <IconButton aria-label="To the last frame" title="To the last frame (End)" onClick={() => goTo(to)} sx={WHERE_WIDE}>
        <LastIcon />
      </IconButton>
      <IconButton
        aria-label="Loop"
        aria-pressed={loop}
        title="Begin again at the end"
        onClick={() => set({ loop: !loop })}
        sx={{ color: loop ? 'var(--paper)' : 'var(--faint)' }}
      >
        <LoopIcon />
      </IconButton>
    </Box>
  );
}

function Time({ length, fps }: { length: number; fps: number }) {
  const frame = useView((s) => s.frame);
  return (
    <Box
      className="mono"
      title={`Frame ${frame} of ${length - 1}, ${fps} fps`}
      sx={{ display: 'flex', gap: '9px', overflow: 'hidden' }}
      data-testid="time"
    >
      <Box component="span" sx={{ color: 'var(--text)' }}>
        {(frame / fps).toFixed(2)} s
      </Box>
      <span>
        frame {frame}/{length - 1}
      </span>
    </Box>
  );
}

function Ready() {
  const { ready, of } = player.store();
  if (of === 0) return null;
  return (
    <span data-testid="ready" title="Frames that are made and play at the shot's rate">
      {ready >= of ? 'all frames ready' : `${ready} of ${of} ready`}
    </span>
  );
}

/** Length and rate of the shot. */
function Length({ time, from, to }: { time: Shot['settings']['time']; from: number; to: number }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button aria-haspopup="dialog" onClick={(e) => setAnchor(e.currentTarget)} sx={{ height: 22, padding: '0 7px', fontSize: 11 }}>
        <Box component="span" sx={WHERE_WIDE}>
          in {from} out {to},&nbsp;
        </Box>
        {time.fps} fps
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'top', horizontal: 'right' }}
        transformOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        slotProps={{ paper: { role: 'dialog', 'aria-label': 'Length and rate', sx: { width: 300, padding: '10px 12px' } } }}
      >
        <NumberRow param={LENGTH} value={time.length} onChange={(v, g) => changeSettings((s) => setLength(s.time, Math.round(v)), g)} />
        <LabelRow label="Rate">
          <Select
            value={time.fps}
            onChange={(e) => changeShot((shot) => setRate(shot, Number(e.target.value)))}
            inputProps={{ 'aria-label': 'Frames a second' }}
          >
            {[...new Set<number>([...RATES, time.fps])].map((r) => (
              <MenuItem key={r} value={r}>
                {r} fps
              </MenuItem>
            ))}
          </Select>
        </LabelRow>
        <NumberRow
          param={frames({ label: 'In', min: 0, max: Math.max(1, time.length - 1), default: 0 })}
          value={from}
          onChange={(v, g) => changeSettings((s) => void (s.time.from = v <= 0 ? null : Math.min(to, Math.round(v))), g)}
        />
        <NumberRow
          param={frames({ label: 'Out', min: 0, max: Math.max(1, time.length - 1), default: Math.max(1, time.length - 1) })}
          value={to}
          onChange={(v, g) => changeSettings((s) => void (s.time.to = v >= time.length - 1 ? null : Math.max(from, Math.round(v))), g)}
        />
      </Popover>
    </>
  );
}

/** A shot at another rate: what was recorded with its plate is heard at the times at which it was. */
function setRate(shot: Shot, fps: number): void {
  shot.settings.time.fps = fps;
  if (shot.plate.recorded) shot.settings = withSignalsPlayed(copyOf(shot));
}

/** Ends of the range that lie beyond a new length go with it. */
function setLength(time: Shot['settings']['time'], length: number): void {
  time.length = length;
  if (time.from !== null && time.from >= length) time.from = null;
  if (time.to !== null && time.to >= length - 1) time.to = null;
}
