import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import { memo, useEffect, useRef } from 'react';
import { chapterOf } from './chapters/registry';
import { useShot } from './state/documentStore';
import { useSession } from './state/sessionStore';
import { chapterFacts, factsOf, type Chapter } from './state/chapterFacts';
import { useView } from './state/viewStore';
import { tokens } from '../theme/tokens';

/** The chapters, each with a thumbnail of what leaves it. */
export function Chapters() {
  const shot = useShot();
  const chapter = useView((s) => s.chapter);
  const thumbs = useSession((s) => s.thumbs);
  // until each has its own: how the shot was left
  const left = useSession((s) => s.lastPicture);
  return (
    <Box
      component="nav"
      aria-label="Chapters"
      sx={{ borderRight: '1px solid var(--line)', padding: '10px', display: 'flex', flexDirection: 'column', gap: '7px', overflow: 'auto' }}
    >
      {chapterFacts.all.map(({ kind: name }) => (
        <ChapterButton
          key={`${shot?.id ?? ''} ${name}`}
          name={name}
          on={name === chapter}
          bitmap={thumbs[chapterOf(name).thumb] ?? left}
          figure={shot ? chapterOf(name).figure(shot) : ''}
        />
      ))}
    </Box>
  );
}

/** Renders again only when its own picture or figure is another. */
const ChapterButton = memo(function ChapterButton({
  name,
  on,
  bitmap,
  figure,
}: {
  name: Chapter;
  on: boolean;
  bitmap: ImageBitmap | null;
  figure: string;
}) {
  return (
    <ButtonBase
      onClick={() => useView.getState().set({ chapter: name, picking: null })}
      aria-current={on ? 'page' : undefined}
      sx={{
        display: 'block',
        width: '100%',
        textAlign: 'left',
        padding: '5px',
        borderRadius: '5px',
        flexShrink: 0,
        border: `1px solid ${on ? tokens.paper : 'transparent'}`,
        background: on ? 'var(--raise)' : 'none',
        '&:hover': { background: 'var(--raise)' },
      }}
    >
      <Thumb bitmap={bitmap} />
      <Box
        sx={{
          marginTop: '4px',
          color: on ? 'var(--paper)' : 'var(--mute)',
          fontSize: 11.5,
          fontWeight: 500,
          whiteSpace: 'nowrap',
          display: 'flex',
          justifyContent: 'space-between',
          gap: '5px',
          alignItems: 'baseline',
        }}
      >
        {factsOf(name).label}
        <Box
          component="span"
          className="mono"
          sx={{
            fontSize: '9px !important',
            letterSpacing: '-0.05em !important',
            color: 'var(--mute)',
            overflow: 'hidden',
            textOverflow: 'ellipsis',
            minWidth: 0,
          }}
        >
          {figure}
        </Box>
      </Box>
    </ButtonBase>
  );
});

function Thumb({ bitmap }: { bitmap: ImageBitmap | null }) {
  const ref = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const canvas = ref.current;
    if (!canvas || !bitmap || bitmap.width === 0) return;
    const context = canvas.getContext('2d')!;
    context.fillStyle = tokens.surround;
    context.fillRect(0, 0, 200, 116);
    const scale = Math.max(200 / bitmap.width, 116 / bitmap.height);
    context.imageSmoothingQuality = 'high';
    context.drawImage(bitmap, (200 - bitmap.width * scale) / 2, (116 - bitmap.height * scale) / 2, bitmap.width * scale, bitmap.height * scale);
  }, [bitmap]);
  return (
    <canvas
      ref={ref}
      width={200}
      height={116}
      aria-hidden="true"
      style={{ display: 'block', width: '100%', height: 58, borderRadius: '3px', background: 'var(--surround)' }}
    />
  );
}
