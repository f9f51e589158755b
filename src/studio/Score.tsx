import Box from '@mui/material/Box';
import { lazy, Suspense } from 'react';
import { useShallow } from 'zustand/react/shallow';
import { Divider } from './controls/Divider';
import { Guard } from './controls/Guard';
import { Rail } from './rail/Rail';
import { SCORE, useLayout } from './state/layoutStore';
import { Timeline } from './timeline/Timeline';
import { useSize } from './controls/useSize';
import { useDocument, shotOf } from './state/documentStore';

const LiveBar = lazy(() => import('./live/LiveBar').then((m) => ({ default: m.LiveBar })));

/** Rail and timeline in one block under the picture: names at the left, distances and time at the right. Its upper border is dragged. */
export function Score({ rescue }: { readonly rescue: { readonly label: string; run(): void } }) {
  const [ref, size] = useSize<HTMLDivElement>();
  const live = useDocument((s) => shotOf(s)?.plate.live !== undefined);
  const { score, set } = useLayout(useShallow((s) => ({ score: s.score, set: s.set })));
  return (
    <Box ref={ref} sx={{ position: 'relative', flexShrink: 0, borderTop: '1px solid var(--line)' }}>
      <Divider
        label="Between the picture and what lies below"
        upright={false}
        size={Math.round(size.height)}
        limits={[SCORE.least, SCORE.most]}
        onChange={(height) => set({ score: height })}
        onReset={() => set({ score: null })}
      />
      <Box
        sx={{ display: 'flex', flexDirection: 'column', overflowX: 'hidden', maxHeight: '58vh' }}
        style={score === null ? undefined : { height: score, overflowY: 'auto' }}
      >
        {live && (
          <Guard what="The live bar" rescue={rescue}>
            <Suspense fallback={null}>
              <LiveBar />
            </Suspense>
          </Guard>
        )}
        <Guard what="The depth rail" rescue={rescue}>
          <Rail />
        </Guard>
        <Guard what="The timeline" rescue={rescue}>
          <Timeline />
        </Guard>
      </Box>
    </Box>
  );
}
