import Box from '@mui/material/Box';
import { formatMetres } from '../../core/values/params';
import { useTint } from '../controls/useTint';
import { useDocument, useShot } from '../state/documentStore';
import { useSession } from '../state/sessionStore';
import { factsOf } from '../state/chapterFacts';
import { useView } from '../state/viewStore';
import type { Placement } from '../picture/geometry';
import { probeAt, type Probe } from '../picture/probe';

/** A value on its way through Depth: as the layers make it, cleaned, calibrated. */
const stages = (p: Probe): string =>
  ` · raw ${p.stack === p.stack ? p.stack.toFixed(3) : 'unknown'} → cleaned ${p.raw.toFixed(3)} → nearness ${p.nearness.toFixed(3)}`;

/** The readout beside the pointer. */
export function ProbeTag({ place, view }: { place: Placement; view: { width: number; height: number } }) {
  const shot = useShot();
  const preview = useSession((s) => s.preview);
  const pointer = useView((s) => s.pointer);
  const { cleaning } = factsOf(useView((s) => s.chapter));
  const tint = useTint();
  const busy = useDocument((s) => s.draft !== null);
  if (!shot || !preview || !pointer || busy) return null;
  const probe = probeAt(preview, shot, pointer.x, pointer.y);
  if (!probe) return null;
  const { width, height } = shot.settings.framing;
  const x = place.left + pointer.x * width * place.scale;
  const y = place.top + pointer.y * height * place.scale;
  const leftSide = x > view.width - (cleaning ? 400 : 300);
  const blur =
    probe.blur === null
      ? ''
      : Math.abs(probe.blur) < 1
        ? ` · in focus, blur ${Math.abs(probe.blur).toFixed(1)} px`
        : ` · blur ${Math.abs(probe.blur).toFixed(1)} px`;
  return (
    <>
      <Box
        sx={{
          position: 'absolute',
          width: 16,
          height: 16,
          borderRadius: '50%',
          border: '1.5px solid #fff',
          boxShadow: '0 0 0 1px #0008',
          pointerEvents: 'none',
        }}
        style={{ left: x - 8, top: y - 8 }}
      />
      <Box
        className="mono"
        data-testid="probe"
        sx={{
          position: 'absolute',
          background: 'rgba(20,20,19,.9)',
          padding: '3px 7px',
          borderRadius: '3px',
          whiteSpace: 'nowrap',
          pointerEvents: 'none',
        }}
        style={{ top: Math.max(4, y - 36), ...(leftSide ? { right: view.width - x + 12 } : { left: x + 12 }) }}
      >
        <b style={{ color: tint(probe.distance) }}>{formatMetres(probe.distance)}</b>
        {cleaning ? stages(probe) : ` · nearness ${probe.nearness.toFixed(3)}${blur}`}
      </Box>
    </>
  );
}
