import Box from '@mui/material/Box';
import { formatMetres } from '../../core/values/params';
import type { Settings, Shot } from '../../core/document/schema';
import { useTint } from '../controls/useTint';
import { useRef } from 'react';
import { beginGesture, changeSettings, keyGesture, type Gesture } from '../state/documentStore';
import { useViewPart } from '../state/viewStore';
import type { Placement } from '../picture/geometry';
import { outputToPlate, plateToOutput } from '../picture/probe';

/** The stakes in the picture: a stem with a round head, dragged or moved with the arrow keys, deleted with Delete. */
export function Stakes({ shot, place }: { shot: Shot; place: Placement }) {
  const { selectedStake, set } = useViewPart('selectedStake', 'set');
  const tint = useTint();
  const { width, height } = shot.settings.framing;
  const gesture = useRef<Gesture | null>(null);
  const moved =
    (id: string, ox: number, oy: number) =>
    ({ stakes }: Pick<Settings, 'stakes'>): void => {
      const p = outputToPlate(shot, Math.min(0.999, Math.max(0, ox)), Math.min(0.999, Math.max(0, oy)));
      const stake = stakes.find((k) => k.id === id);
      if (stake) Object.assign(stake, p);
    };
  return (
    <>
      {shot.settings.stakes.map((stake, index) => {
        const o = plateToOutput(shot, stake.x, stake.y);
        const chosen = stake.id === selectedStake;
        return (
          <Box
            key={stake.id}
            role="button"
            tabIndex={0}
            aria-label={`Stake ${index + 1} at ${formatMetres(stake.distance)}`}
            onPointerDown={(e) => {
              e.currentTarget.setPointerCapture(e.pointerId);
              set({ selectedStake: stake.id });
              gesture.current = beginGesture();
            }}
            onPointerMove={(e) => {
              if (e.buttons === 0) return;
              const rect = e.currentTarget.parentElement!.getBoundingClientRect();
              const ox = (e.clientX - rect.left - place.left) / (width * place.scale);
              const oy = (e.clientY - rect.top - place.top) / (height * place.scale);
              gesture.current?.set((s) => moved(stake.id, ox, oy)(s.settings));
            }}
            onPointerUp={() => gesture.current?.commit()}
            onPointerCancel={() => gesture.current?.cancel()}
            onFocus={() => set({ selectedStake: stake.id })}
            onKeyDown={(e) => {
              const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
              if (step) {
                e.preventDefault();
                changeSettings(moved(stake.id, o.x + step[0]! * 0.004, o.y + step[1]! * 0.004), keyGesture(stake.id));
              } else if (e.key === 'Delete' || e.key === 'Backspace') {
                changeSettings((s) => {
                  s.stakes = s.stakes.filter((k) => k.id !== stake.id);
                });
              }
            }}
            sx={{
              position: 'absolute',
              width: 18,
              height: 31,
              cursor: 'move',
              touchAction: 'none',
              display: 'flex',
              flexDirection: 'column',
              alignItems: 'center',
            }}
            style={{ left: place.left + o.x * width * place.scale - 9, top: place.top + o.y * height * place.scale - 30 }}
          >
            <Box
              sx={{
                width: 14,
                height: 14,
                flexShrink: 0,
                borderRadius: '50%',
                border: `2px solid ${chosen ? '#fff' : 'var(--ground)'}`,
                boxShadow: '0 0 0 1px #0009',
              }}
              style={{ background: tint(stake.distance) }}
            />
            <Box sx={{ width: 2, flex: 1, background: chosen ? '#fff' : 'var(--paper)', boxShadow: '0 0 0 1px #0006' }} />
            <Box
              className="mono"
              sx={{
                position: 'absolute',
                left: 19,
                top: -1,
                padding: '1px 5px',
                borderRadius: '3px',
                background: 'rgba(20,20,19,.88)',
                whiteSpace: 'nowrap',
              }}
            >
              {formatMetres(stake.distance)}
            </Box>
          </Box>
        );
      })}
    </>
  );
}
