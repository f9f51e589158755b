import Box from '@mui/material/Box';
import MuiLink from '@mui/material/Link';
import Link from 'next/link';
import type { Project } from '../core/document/schema';
import { readNote, writeNote } from '../store/shotNotes';

interface Thing {
  /** file name of its loop and of its still */
  readonly loop: string;
  /** what the plate's file of its shot begins with */
  readonly plate: string;
  readonly view: { readonly chapter: 'depth' | 'effects' | 'camera'; readonly mode: 'overlay' | 'picture' };
  readonly title: string;
  readonly text: string;
}

const things: readonly Thing[] = [
  {
    loop: 'focus',
    plate: 'chartTable',
    view: { chapter: 'effects', mode: 'picture' },
    title: 'Focus where you click',
    text: 'Blur, fog and light act by distance, in metres.',
  },
  {
    loop: 'move',
    plate: 'figurehead',
    view: { chapter: 'camera', mode: 'picture' },
    title: 'Move through a still',
    text: 'What comes into view behind things is filled.',
  },
  {
    loop: 'depth',
    plate: 'quayLamp',
    view: { chapter: 'depth', mode: 'overlay' },
    title: 'Find and shape its depth',
    text: 'Estimated in seconds; then painted, drawn, or built.',
  },
];

/** What can be done, in three small loops that the tool drew itself; each opens its shot of the demo where that is done. */
export function FirstVisit({ demo }: { readonly demo: Project }) {
  return (
    <Box
      component="section"
      aria-label="What can be done"
      sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(300px, 1fr))', gap: '18px', marginBottom: '22px' }}
    >
      {things.map(({ loop, plate, view, title, text }) => {
        const shot = demo.shots.find((s) => s.plate.name.startsWith(plate));
        return (
          shot && (
            <MuiLink
              key={loop}
              component={Link}
              href={`/shot?project=${demo.id}&shot=${shot.id}`}
              prefetch={false}
              onClick={() => writeNote('view', shot.id, { ...(readNote('view', shot.id) as object | null), ...view })}
              color="inherit"
              underline="none"
              sx={{ display: 'flex', gap: '12px', alignItems: 'center', '&:hover img': { outline: '1px solid var(--paper)' } }}
            >
              <picture>
                <source media="(prefers-reduced-motion: reduce)" srcSet={`/demo/${loop}.still.webp`} />
                <Box
                  component="img"
                  src={`/demo/${loop}.loop.webp`}
                  alt=""
                  sx={{ width: 168, height: 94, objectFit: 'cover', display: 'block', borderRadius: '4px', outlineOffset: -1 }}
                />
              </picture>
              <Box>
                <Box sx={{ fontWeight: 600 }}>{title}</Box>
                <Box sx={{ color: 'var(--mute)', lineHeight: 1.35 }}>{text}</Box>
              </Box>
            </MuiLink>
          )
        );
      })}
    </Box>
  );
}
