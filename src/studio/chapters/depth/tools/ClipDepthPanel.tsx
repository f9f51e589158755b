import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useState } from 'react';
import { clipDepthSpec } from '../../../../core/shot/clipLayer';
import { meanFlicker } from '../../../../core/motion/flicker';
import type { Layer } from '../../../../core/document/schema';
import { framesDone, isFound } from '../../../../media/clipDepthState';
import type { DepthReport } from '../../../../media/clipStore';
import { Chart } from '../../../controls/Chart';
import { ChoiceRow, Section } from '../../../controls/rows';
import { costOf, findClipDepth, forgetClipDepth } from '../../../state/clipDepth';
import { changeShot, useShot } from '../../../state/documentStore';
import { useClipDepth } from '../../../state/useClipDepth';
import { useSession } from '../../../state/sessionStore';
import { useClipFrame } from '../../../state/shotNow';
import { tokens } from '../../../../theme/tokens';

const timeText = (seconds: number): string => (seconds < 90 ? `${Math.max(1, Math.round(seconds))} s` : `${Math.round(seconds / 60)} min`);

/** Of how many frames one is estimated. */
const EVERY = [
  { value: '1', label: 'Each frame' },
  { value: '2', label: 'Every 2nd' },
  { value: '4', label: 'Every 4th' },
] as const;

/** Depth for all frames of a clip: what there is, what it takes, and how much it flickers. */
export function ClipDepthPanel({ layer }: { layer: Layer }) {
  const shot = useShot()!;
  const clipDepthJob = useSession((s) => s.clipDepthJob);
  const here = useClipFrame();
  const [chosen, setChosen] = useState<number | null>(null);
  const spec = clipDepthSpec(shot.plate, layer, chosen ?? undefined);
  const state = useClipDepth(spec);
  if (!spec || !isFound(spec)) return null;
  const frames = spec.to + 1;
  const steady = spec.steady > 0;
  const finished = state ? framesDone(spec, state) : 0;
  const estimated = spec.source.is === 'estimate';
  const all = finished >= frames;
  const { seconds, bytes } = costOf(spec);
  const begun = (state?.estimated.length ?? 0) > 1 || finished > 0;
  return (
    <Section title="Depth of the clip">
      <Box sx={{ color: 'var(--text)' }} data-testid="clip-depth">
        {all
          ? `All ${frames} frames have ${steady ? 'steady ' : ''}depth.`
          : steady
            ? `${finished} of ${frames} frames are steady${estimated ? `, ${state?.estimated.length ?? 0} estimated` : ''}.`
            : `${finished} of ${frames} frames have depth.`}
      </Box>
      {estimated && steady && (
        <ChoiceRow
          label="Estimate"
          help="Frames between are carried along what moves"
          value={String(spec.every)}
          options={EVERY}
          onChange={(v) => setChosen(Number(v))}
        />
      )}
      {clipDepthJob ? (
        <Box sx={{ color: 'var(--mute)', fontSize: 11.5 }}>It is being found; you can go on working.</Box>
      ) : (
        !all && (
          <>
            <Button fullWidth variant="contained" onClick={() => void findClipDepth(spec, here)}>
              {!estimated ? 'Make all frames steady' : begun ? 'Go on finding depth' : 'Find depth for all frames'}
            </Button>
            <Box className="mono" sx={{ color: 'var(--mute)', fontSize: 11 }}>
              about {timeText(seconds)}, {Math.round(bytes / 1e6)} MB
            </Box>
          </>
        )
      )}
      {state?.report && <Cuts found={state.report.cuts} />}
      {state?.report && <Flicker report={state.report} fps={shot.plate.clip!.fps} />}
      {begun && !clipDepthJob && (
        <Button fullWidth onClick={() => void forgetClipDepth(spec)}>
          Forget depth of the clip
        </Button>
      )}
    </Section>
  );
}

/** Where scenes begin, and the frame at the playhead made one that does, or does not. */
function Cuts({ found }: { found: readonly number[] }) {
  const shot = useShot()!;
  const frame = useClipFrame();
  const { clip } = shot.plate;
  const isCut = found.includes(frame);
  const change = (): void =>
    changeShot((s) => {
      if (!s.plate.clip) return;
      const { added, removed } = s.plate.clip.cuts ?? { added: [], removed: [] };
      const rest = { added: added.filter((f) => f !== frame), removed: removed.filter((f) => f !== frame) };
      s.plate.clip.cuts = isCut ? { ...rest, removed: [...rest.removed, frame] } : { ...rest, added: [...rest.added, frame] };
    });
  if (!clip) return null;
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: '8px', minHeight: 28 }}>
      <Box sx={{ flex: 1, color: 'var(--mute)' }}>{found.length === 0 ? 'One scene' : `Scenes begin at 0, ${found.join(', ')}`}</Box>
      {frame > 0 && (
        <Button
          sx={{ height: 24, whiteSpace: 'nowrap' }}
          title="Nothing is carried over a cut; depth is found again for the scenes it divides"
          onClick={change}
        >
          {isCut ? `No cut at ${frame}` : `Cut at ${frame}`}
        </Button>
      )}
    </Box>
  );
}

/** Change of nearness from frame to frame along what moves, per cent of the range: as it was estimated, and steady. */
function Flicker({ report, fps }: { report: DepthReport; fps: number }) {
  const [before, after] = [100 * meanFlicker(report.before), 100 * meanFlicker(report.after)];
  const last = Math.max(1, report.before.length - 1);
  const curve = (list: readonly (number | null)[]): { x: number; y: number; colour: string }[] =>
    list.flatMap((v, t) => (v === null ? [] : [{ x: t / last, y: 100 * v, colour: tokens.paper }]));
  const top = Math.max(0.1, ...report.before.map((v) => 100 * (v ?? 0))) * 1.05;
  const seconds = last / fps;
  return (
    <Box>
      <Box sx={{ display: 'flex', justifyContent: 'space-between', marginBottom: '2px' }}>
        <span>Flicker</span>
        <span className="mono" data-testid="flicker">
          {before.toFixed(2)} % to {after.toFixed(2)} %
        </span>
      </Box>
      <Chart
        label={`Flicker by frame: ${before.toFixed(2)} % as estimated, ${after.toFixed(2)} % made steady`}
        points={curve(report.after)}
        beneath={curve(report.before)}
        xTicks={[
          { at: 0, text: '0 s' },
          { at: 1, text: `${seconds.toFixed(1)} s` },
        ]}
        yTicks={[
          { at: 0, text: '0' },
          { at: top / 1.05, text: `${(top / 1.05).toFixed(1)} %` },
        ]}
        yMax={top}
        height={90}
      />
    </Box>
  );
}
