import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import { useShallow } from 'zustand/react/shallow';
import { liveSources } from '../../live/registry';
import { useShot } from '../state/documentStore';
import { useLive, type LiveFigures } from '../state/liveStore';
import { liveRun } from './LiveHost';
import { openShow } from './show';

const WORDS = { off: '', waiting: 'waiting for the first picture', running: 'live', frozen: 'frozen', gone: 'gone' } as const;

/** What runs of the live plate, and freezing, recording and showing it: under the picture, in every chapter. */
export function LiveBar() {
  const source = useShot()?.plate.live?.source;
  const { is, why, hint, figures, shows, recording, making } = useLive(
    useShallow(({ is, why, hint, figures, shows, recording, making }) => ({ is, why, hint, figures, shows, recording, making })),
  );
  if (!source || is === 'off') return null;
  return (
    <Box
      role="toolbar"
      aria-label="Live"
      data-testid="live"
      data-state={is}
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: '12px',
        padding: '0 14px',
        height: 34,
        borderBottom: '1px solid var(--line)',
        whiteSpace: 'nowrap',
      }}
    >
      <Box component="span" sx={{ fontWeight: 600 }}>
        {liveSources.knows(source) ? liveSources.of(source).label : source}
      </Box>
      <Box
        component="span"
        role="status"
        sx={{ color: is === 'gone' ? 'var(--alert)' : 'var(--mute)', minWidth: 0, overflow: 'hidden', textOverflow: 'ellipsis' }}
      >
        {is === 'gone' ? `${why} ${hint}` : is === 'running' && shows ? `shows ${shows}` : WORDS[is]}
      </Box>
      {is === 'running' && <Figures figures={figures} />}
      <Box sx={{ flex: 1 }} />
      {making ? (
        <Box sx={{ display: 'flex', alignItems: 'center', gap: '8px', color: 'var(--mute)' }}>
          {making.what}
          {making.left !== null && <span className="mono">{Math.ceil(making.left)} s left</span>}
          <LinearProgress variant="determinate" value={100 * making.share} aria-label={making.what} sx={{ width: 80 }} />
          <Button onClick={making.cancel}>Stop</Button>
        </Box>
      ) : (
        <Button disabled={is !== 'running' && is !== 'frozen' && !recording} aria-pressed={recording !== null} onClick={() => liveRun()?.record()}>
          {recording ? <Recorded {...recording} /> : 'Record'}
        </Button>
      )}
      <Button disabled={is !== 'running' && is !== 'frozen'} title="Space" onClick={() => liveRun()?.toggle()} sx={{ minWidth: 72 }}>
        {is === 'frozen' ? 'Go on' : 'Freeze'}
      </Button>
      <Button title="The picture alone, in a window that can fill another display" onClick={openShow}>
        On show
      </Button>
    </Box>
  );
}

function Recorded({ seconds, frames, missed }: { seconds: number; frames: number; missed: number }) {
  return (
    <span>
      End recording&ensp;
      <span className="mono" title={`${frames} pictures${missed > 0 ? `, ${missed} left out: too fast to be written` : ''}`}>
        {seconds.toFixed(0)} s
      </span>
    </span>
  );
}

/** How pictures arrive, in a line. */
function Figures({ figures: { rate, shown, age, oldest, lost, overtaken } }: { figures: LiveFigures }) {
  const parts: readonly (readonly [string, string])[] = [
    [`${rate.toFixed(0)}/s`, 'Pictures that arrived in the last second'],
    [`shown ${shown.toFixed(0)}/s`, 'Pictures that were shown in the last second; those overtaken by newer ones are left out'],
    [`${age.toFixed(0)} ms old`, `How old a picture is when it is shown; nine of ten at most ${oldest.toFixed(0)} ms`],
    [`${lost} lost`, 'Pictures that never arrived'],
  ];
  return (
    <Box
      className="mono"
      data-testid="live-figures"
      data-overtaken={overtaken}
      data-oldest={oldest.toFixed(0)}
      sx={{ display: 'flex', gap: '12px', color: 'var(--mute)', fontSize: 11.5, overflow: 'hidden' }}
    >
      {parts.map(([text, title]) => (
        <span key={title} title={title}>
          {text}
        </span>
      ))}
    </Box>
  );
}
