import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import { useEffect, useRef, useState, type ReactNode } from 'react';
import { moveOf, moves } from '../../../core/camera/registry';
import { newMove } from '../../../core/document/defaults';
import { copyOf } from '../../../core/values/copy';
import type { MoveItem, Shot } from '../../../core/document/schema';
import type { Relief } from '../../../core/camera/relief';
import { notifyError } from '../../notices/noticeStore';
import { PopButton } from '../../controls/PopButton';
import { changeSettings, useShot, whileOpen } from '../../state/documentStore';
import { Player } from '../../state/player';
import { isFull } from '../../state/room';
import { useSession } from '../../state/sessionStore';
import { useView } from '../../state/viewStore';
import { freshMoves } from './judge';

/** A loop's frames and rate: short, so that all of them are there soon. */
const FRAMES = 16;
const FPS = 8;
const WIDE = 132;

/** The moves that can be added, each as a small live loop of this very shot. */
export function AddMove() {
  const shot = useShot();
  const relief = useSession((s) => s.relief);
  const add = async (kind: string, fitted: MoveItem | undefined): Promise<void> => {
    if (!shot || isFull('moves')) return;
    const open = whileOpen();
    // what its loop showed is there at once; only before that it is reckoned now
    const item = fitted ? copyOf({ ...fitted, id: newMove(kind).id }) : (await freshMoves([kind], shot, relief))[0];
    if (!item || !open()) return;
    changeSettings((s) => void s.camera.moves.push(item));
    useView.getState().set({ selectedMove: item.id });
  };
  return (
    <PopButton text="Add move" label="Moves that can be added">
      {(close) =>
        shot && (
          <Choice shot={shot} relief={relief}>
            {(fitted) =>
              moves.map((m, k) => (
                <ButtonBase
                  key={m.kind}
                  title={m.help}
                  onClick={() => {
                    close();
                    add(m.kind, fitted?.[k]).catch(notifyError);
                  }}
                  sx={{
                    display: 'block',
                    textAlign: 'left',
                    borderRadius: '4px',
                    border: '1px solid var(--line2)',
                    overflow: 'hidden',
                    '&:hover, &:focus-visible': { borderColor: 'var(--paper)' },
                  }}
                >
                  <Loop item={fitted?.[k] ?? null} shot={shot} />
                  <Box sx={{ padding: '3px 7px 5px', fontSize: 12, fontWeight: 550 }}>
                    {m.label}
                    <Box sx={{ color: 'var(--mute)', fontSize: 10.5, fontWeight: 400, lineHeight: 1.25, whiteSpace: 'normal', minHeight: 40 }}>
                      {m.help}
                    </Box>
                  </Box>
                </ButtonBase>
              ))
            }
          </Choice>
        )
      }
    </PopButton>
  );
}

/** The list, with each move as it would be added: made as large as the depth allows once when the list is opened, or its depth is known. */
function Choice({ shot, relief, children }: { shot: Shot; relief: Relief | null; children: (fitted: readonly MoveItem[] | null) => ReactNode }) {
  const [fitted, setFitted] = useState<readonly MoveItem[] | null>(null);
  useEffect(() => {
    let wanted = true;
    if (relief)
      freshMoves(
        moves.map((m) => m.kind),
        shot,
        relief,
      )
        .then((found) => wanted && setFitted(found))
        .catch(notifyError);
    return () => {
      wanted = false;
    };
    // loops show what was there when the list was opened
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [relief]);
  return <Box sx={{ display: 'grid', gridTemplateColumns: `repeat(3, ${WIDE}px)`, gap: '8px', padding: '12px' }}>{children(fitted)}</Box>;
}

/** The shot with one move alone, as a short loop without effects. */
function loopOf(shot: Shot, item: MoveItem): Shot {
  const values: MoveItem['values'] = { ...item.values };
  if ('returns' in values) Object.assign(values, { from: 0, over: 0, returns: true, easing: 'ease' });
  // what never repeats shows more of itself in so short a time
  if ('period' in values) values.period = moveOf(item.kind).period ? FRAMES : FRAMES / 3;
  const camera = { ...shot.settings.camera, moves: [{ ...item, values, drives: {} }], border: 'overscan' as const };
  return { ...shot, settings: { ...shot.settings, effects: [], camera, time: { length: FRAMES, fps: FPS, from: null, to: null } } };
}

function Loop({ item, shot }: { item: MoveItem | null; shot: Shot }) {
  const ref = useRef<HTMLCanvasElement>(null);
  const given = useSession((s) => s.given);
  const { framing } = shot.settings;
  const height = Math.min(90, Math.round((WIDE * framing.height) / framing.width));
  const key = JSON.stringify(item?.values);
  useEffect(() => {
    if (!item) return;
    const player = new Player(() => 0, 30);
    player.update(loopOf(shot, item), given, { width: WIDE, height });
    let stopped = false;
    let shown = -1;
    const draw = (now: number): void => {
      if (stopped) return;
      const frame = Math.floor((now / 1000) * FPS) % FRAMES;
      const bitmap = (player.at(frame) ?? (shown < 0 ? player.at(0) : null))?.picture;
      if (bitmap && frame !== shown && ref.current) {
        shown = frame;
        ref.current.getContext('2d')!.drawImage(bitmap, 0, 0);
      }
      requestAnimationFrame(draw);
    };
    requestAnimationFrame(draw);
    return () => {
      stopped = true;
      player.clear();
    };
    // the loop shows what was there when the list was opened
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, height]);
  return (
    <canvas
      ref={ref}
      width={WIDE}
      height={height}
      style={{ display: 'block', background: 'var(--surround)' }}
      aria-hidden="true"
      data-fitted={item ? 'yes' : 'no'}
    />
  );
}
