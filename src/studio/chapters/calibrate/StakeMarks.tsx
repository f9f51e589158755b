import Box from '@mui/material/Box';
import type { Settings, Shot } from '../../../core/document/schema';
import { formatMetres } from '../../../core/values/params';
import { arrowStep } from '../../controls/arrowStep';
import { useHeldDrag } from '../../controls/useHeldDrag';
import { useTint } from '../../controls/useTint';
import type { Placement } from '../../picture/geometry';
import { outputToPlate, plateToOutput } from '../../picture/probe';
import { changeSettings, keyGesture } from '../../state/documentStore';
import { useViewPart } from '../../state/viewStore';

/** How far an arrow key moves a stake, as a share of the output. */
const KEY_STEP = 0.004;

/** The stakes in the picture. */
export function Stakes({ shot, place }: { shot: Shot; place: Placement }) {
  return shot.settings.stakes.map((stake, index) => <StakeMark key={stake.id} shot={shot} place={place} stake={stake} number={index + 1} />);
}

interface MarkProps {
  readonly shot: Shot;
  readonly place: Placement;
  readonly stake: Settings['stakes'][number];
  readonly number: number;
}

/** A stake: a stem with a round head, dragged or moved with the arrow keys, deleted with Delete. */
function StakeMark({ shot, place, stake, number }: MarkProps) {
  const { selectedStake, set } = useViewPart('selectedStake', 'set');
  const tint = useTint();
  const { framing } = shot.settings;
  const [width, height] = [framing.width * place.scale, framing.height * place.scale];
  const at = plateToOutput(shot, stake.x, stake.y);
  /** puts it at a place of the output, 0..1 */
  const put =
    (x: number, y: number) =>
    ({ stakes }: Pick<Settings, 'stakes'>): void => {
      const inside = (v: number): number => Math.min(0.999, Math.max(0, v));
      const found = stakes.find((k) => k.id === stake.id);
      if (found) Object.assign(found, outputToPlate(shot, inside(x), inside(y)));
    };
  const bind = useHeldDrag({
    grab: (_, taken) => {
      set({ selectedStake: stake.id });
      return (taken as HTMLElement).parentElement!.getBoundingClientRect();
    },
    move: (view, _, gesture, { clientX, clientY }) => {
      const [x, y] = [(clientX - view.left - place.left) / width, (clientY - view.top - place.top) / height];
      gesture.set((s) => put(x, y)(s.settings));
    },
  });
  const onKeyDown = (event: React.KeyboardEvent): void => {
    const arrow = arrowStep(event.key);
    if (arrow) {
      event.preventDefault();
      changeSettings(put(at.x + arrow[0] * KEY_STEP, at.y + arrow[1] * KEY_STEP), keyGesture(stake.id));
    } else if (event.key === 'Delete' || event.key === 'Backspace') {
      changeSettings((s) => {
        s.stakes = s.stakes.filter((k) => k.id !== stake.id);
      });
    }
  };
  const chosen = stake.id === selectedStake;
  return (
    <Box
      {...bind()}
      role="button"
      tabIndex={0}
      aria-label={`Stake ${number} at ${formatMetres(stake.distance)}`}
      onFocus={() => set({ selectedStake: stake.id })}
      onKeyDown={onKeyDown}
      sx={MARK}
      style={{ left: place.left + at.x * width - 9, top: place.top + at.y * height - 30 }}
    >
      <Box sx={{ ...HEAD, border: `2px solid ${chosen ? '#fff' : 'var(--base)'}` }} style={{ background: tint(stake.distance) }} />
      <Box sx={{ width: 2, flex: 1, background: chosen ? '#fff' : 'var(--paper)', boxShadow: '0 0 0 1px #0006' }} />
      <Box className="mono" sx={LABEL}>
        {formatMetres(stake.distance)}
      </Box>
    </Box>
  );
}

const MARK = {
  position: 'absolute',
  width: 18,
  height: 31,
  cursor: 'move',
  touchAction: 'none',
  display: 'flex',
  flexDirection: 'column',
  alignItems: 'center',
} as const;
const HEAD = { width: 14, height: 14, flexShrink: 0, borderRadius: '50%', boxShadow: '0 0 0 1px #0009' } as const;
const LABEL = {
  position: 'absolute',
  left: 19,
  top: -1,
  padding: '1px 5px',
  borderRadius: '3px',
  background: 'rgba(20,20,19,.88)',
  whiteSpace: 'nowrap',
} as const;
