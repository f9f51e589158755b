import Box from '@mui/material/Box';
import { hasCamera } from '../../../core/path/path';
import type { Shot } from '../../../core/document/schema';
import { useSession } from '../../state/sessionStore';
import type { Placement } from '../../picture/geometry';

/** What the overscan leaves of the plate, drawn over the picture where that still shows all of it: at a border that is continued. */
export function SafeFrame({ shot, place }: { shot: Shot; place: Placement }) {
  const path = useSession((s) => s.path);
  const { framing, camera } = shot.settings;
  if (!path || !hasCamera(shot.settings) || camera.moves.every((m) => !m.on)) return null;
  const scale = path.overscan;
  if (scale < 1.0005) return null;
  const cut = camera.border === 'overscan';
  const share = cut ? 1 : 1 / scale;
  const [width, height] = [framing.width * place.scale * share, framing.height * place.scale * share];
  const left = place.left + (framing.width * place.scale - width) / 2;
  const top = place.top + (framing.height * place.scale - height) / 2;
  return (
    <Box
      aria-hidden="true"
      style={{ left, top, width, height }}
      sx={{ position: 'absolute', pointerEvents: 'none', ...(!cut && { border: '1px dashed var(--paper)' }) }}
    >
      <Box
        component="span"
        className="mono"
        sx={{ position: 'absolute', left: 6, bottom: 5, color: 'var(--paper)', textShadow: '0 0 3px #000, 0 0 2px #000' }}
      >
        {cut ? `overscan ${(100 * scale).toFixed(1)} %` : `safe without overscan, ${(100 * scale).toFixed(1)} %`}
      </Box>
    </Box>
  );
}
