import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useEffect, useReducer, useRef, useState } from 'react';
import { hfovOf } from '../../core/document/framing';
import type { Shot } from '../../core/document/schema';
import type { Size } from '../../core/picture';
import { judgedFrames, poseAt } from '../../core/path/path';
import { arrowStep } from '../controls/arrowStep';
import { lensOf } from '../state/shotLens';
import { useView } from '../state/viewStore';
import { ReliefBar } from './ReliefBar';
import { ReliefHandles } from './ReliefHandles';
import { ReliefStage } from './reliefStage';
import { useRelief } from './reliefStore';
import { useReliefParts, type ReliefState } from './useReliefParts';

/** Shares of the view that a key with Shift moves it by. */
const PAN = 0.05;

const SAID: Readonly<Record<ReliefState, string>> = {
  coming: 'The scene is being made…',
  'no depth': 'This shot has no depth yet. Add a layer in Depth, and it stands in space here.',
  coarse: '',
  whole: '',
};

interface Props {
  readonly shot: Shot;
  /** of the view, px */
  readonly size: Size;
}

/** The picture standing in space. */
export function ReliefView(props: Props) {
  const [round, setRound] = useState(0);
  const [gone, setGone] = useState<'none' | 'lost' | null>(null);
  if (gone)
    return (
      <Over>
        <Box role="alert" sx={{ maxWidth: 360, textAlign: 'center' }}>
          {gone === 'none'
            ? 'This browser shows nothing in space: it has no WebGL, or it is switched off. Everything else works.'
            : 'The graphics processor let go of the scene. Nothing is lost.'}
        </Box>
        <Button
          onClick={() => {
            setGone(null);
            setRound(round + 1);
          }}
        >
          Try again
        </Button>
      </Over>
    );
  return <Space key={round} {...props} onGone={setGone} />;
}

const Over = ({ children }: { children: React.ReactNode }) => (
  <Box
    sx={{
      position: 'absolute',
      inset: 0,
      display: 'flex',
      flexDirection: 'column',
      gap: '12px',
      alignItems: 'center',
      justifyContent: 'center',
      background: 'var(--surround)',
      padding: '20px',
    }}
  >
    {children}
  </Box>
);

function Space({ shot, size, onGone }: Props & { onGone: (how: 'none' | 'lost') => void }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const stage = useRef<ReliefStage | null>(null);
  const [, drawn] = useReducer((n: number) => n + 1, 0);
  const { form, strength } = useRelief();
  const frame = useView((s) => s.frame);
  useEffect(() => {
    try {
      const made = new ReliefStage(canvas.current!, { drawn, lost: () => onGone('lost') });
      stage.current = made;
    } catch {
      onGone('none');
      return;
    }
    return () => {
      stage.current?.dispose();
      stage.current = null;
    };
  }, [onGone]);
  useEffect(() => stage.current?.resize(size.width, size.height, window.devicePixelRatio || 1), [size.width, size.height]);
  useEffect(() => stage.current?.setLook(form, strength), [form, strength]);
  const state = useReliefParts(stage, shot);
  useEffect(() => {
    const lens = lensOf(shot);
    const { settings } = shot;
    const hfov = hfovOf(lens.width, lens.focalPx);
    const { fps, length } = settings.time;
    stage.current?.setCamera({
      lens,
      now: poseAt(settings, hfov, { frame, fps }),
      way: judgedFrames(length).map((f) => poseAt(settings, hfov, { frame: f, fps })),
    });
  }, [shot, frame, state]);
  return (
    <Box sx={{ position: 'absolute', inset: 0, background: 'var(--surround)', touchAction: 'none' }} data-testid="relief" data-state={state}>
      <Box
        component="canvas"
        ref={canvas}
        tabIndex={0}
        role="application"
        aria-roledescription="scene in space"
        aria-label="The scene in space. Arrow keys turn it, with Shift they move it, plus and minus come nearer and go away, Home goes back to where the plate was taken."
        data-keys="ArrowLeft ArrowRight ArrowUp ArrowDown + - Home"
        onKeyDown={(event: React.KeyboardEvent) => stage.current && byKey(stage.current, event)}
        sx={{ position: 'absolute', inset: 0, width: '100%', height: '100%', cursor: 'grab', '&:focus-visible': { outlineOffset: -2 } }}
      />
      {SAID[state] && (
        <Box
          role="status"
          sx={{
            position: 'absolute',
            top: '45%',
            left: 0,
            right: 0,
            textAlign: 'center',
            color: 'var(--mute)',
            pointerEvents: 'none',
            padding: '0 20px',
          }}
        >
          {SAID[state]}
        </Box>
      )}
      {stage.current && (state === 'coarse' || state === 'whole') && (
        <Box sx={{ position: 'absolute', inset: 0, overflow: 'hidden', pointerEvents: 'none', '& > *': { pointerEvents: 'auto' } }}>
          <ReliefHandles shot={shot} stage={stage.current} />
        </Box>
      )}
      <ReliefBar onHome={() => stage.current?.home()} />
    </Box>
  );
}

/** Turns, moves and enlarges by keys. */
function byKey(stage: ReliefStage, event: React.KeyboardEvent): void {
  const by = arrowStep(event.key);
  if (by && event.shiftKey) stage.pan(PAN * by[0], -PAN * by[1]);
  else if (by) stage.turn(by[0], -by[1]);
  else if (event.key === '+') stage.nearer(1);
  else if (event.key === '-') stage.nearer(-1);
  else if (event.key === 'Home') stage.home();
  else return;
  event.preventDefault();
}
