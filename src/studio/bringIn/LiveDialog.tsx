import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import { useEffect, useRef, useState } from 'react';
import { defaultsOf } from '../../core/values/params';
import type { Shot } from '../../core/document/schema';
import type { LiveFrame, LiveState, LiveValues } from '../../live/definition';
import { liveSources } from '../../live/registry';
import { messageOf } from '../notices/noticeStore';
import { TextRow } from '../controls/TextRow';
import { newLiveShot } from './newLive';

/** Every how often the pictures in the dialog are drawn anew, ms. */
const DRAW_MS = 90;

interface Props {
  readonly onClose: () => void;
  readonly onShot: (shot: Shot) => Promise<void>;
}

/** Chooses where live pictures come from: what arrives is seen before a shot is made of it, colour and depth apart. */
export function LiveDialog({ onClose, onShot }: Props) {
  const [kind, setKind] = useState(liveSources.all[0]!.kind);
  const [values, setValues] = useState<LiveValues>(defaultsOf(liveSources.all[0]!.params));
  const [making, setMaking] = useState(false);
  const [failed, setFailed] = useState<string | null>(null);
  const source = liveSources.of(kind);
  const { state, colour, depth, newest, told } = usePreview(kind, values);
  const choose = (next: string): void => {
    setKind(next);
    setValues(defaultsOf(liveSources.of(next).params));
    setFailed(null);
  };
  const make = async (): Promise<void> => {
    const frame = newest();
    if (!frame) return;
    setMaking(true);
    try {
      await onShot(await newLiveShot(source, values, frame));
    } catch (error) {
      const { text, hint } = messageOf(error);
      setFailed(`${text} ${hint}`);
      setMaking(false);
    }
  };
  const words = failed ?? (state.is === 'gone' ? `${state.why} ${state.hint}` : told === null ? 'Waiting for the first picture…' : told);
  return (
    <Dialog open onClose={onClose} aria-labelledby="live-title" slotProps={{ paper: { sx: { width: 760, maxWidth: '96vw', padding: '16px 18px' } } }}>
      <Box component="h2" id="live-title" sx={{ fontSize: 15, fontWeight: 600, margin: '0 0 10px' }}>
        A live plate
      </Box>
      <Box role="radiogroup" aria-label="Source" sx={{ display: 'grid', gridTemplateColumns: `repeat(${liveSources.all.length}, 1fr)`, gap: '8px' }}>
        {liveSources.all.map((one) => (
          <Button
            key={one.kind}
            role="radio"
            aria-checked={one.kind === kind}
            onClick={() => choose(one.kind)}
            sx={{
              height: 'auto',
              padding: '8px 10px',
              display: 'block',
              textAlign: 'left',
              lineHeight: 1.35,
              whiteSpace: 'normal',
              minWidth: 0,
              ...(one.kind === kind && { borderColor: 'var(--paper)', background: 'var(--raise)' }),
            }}
          >
            {one.label}
            <Box component="span" sx={{ display: 'block', color: 'var(--mute)', fontSize: 11.5, fontWeight: 400, marginTop: '2px' }}>
              {one.help}
            </Box>
          </Button>
        ))}
      </Box>
      {Object.entries(source.texts ?? {}).map(([name, { label, help, default: usual }]) => (
        <Box key={name} sx={{ marginTop: '8px' }}>
          <TextRow label={label} help={help} value={String(values[name] ?? usual)} onChange={(text) => setValues({ ...values, [name]: text })} />
        </Box>
      ))}
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: '10px', marginTop: '12px' }}>
        {(
          [
            ['Colour', colour],
            ['Depth', depth],
          ] as const
        ).map(([label, ref]) => (
          <Box component="figure" key={label} sx={{ margin: 0 }}>
            <Box
              component="canvas"
              ref={ref}
              role="img"
              aria-label={label}
              sx={{ width: '100%', aspectRatio: '16 / 9', background: 'var(--base)', objectFit: 'contain', display: 'block' }}
            />
            <Box component="figcaption" sx={{ color: 'var(--mute)', fontSize: 11.5, marginTop: '3px' }}>
              {label}
            </Box>
          </Box>
        ))}
      </Box>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: '8px', marginTop: '12px' }}>
        <Box role="status" sx={{ flex: 1, color: state.is === 'gone' || failed ? 'var(--alert)' : 'var(--mute)' }}>
          {words}
        </Box>
        <Button onClick={onClose}>Leave it</Button>
        <Button variant="contained" disabled={told === null || making} onClick={() => void make()}>
          Make a shot
        </Button>
      </Box>
    </Dialog>
  );
}

/** Runs a source and draws what arrives, colour and depth apart. */
function usePreview(kind: string, values: LiveValues) {
  const colour = useRef<HTMLCanvasElement>(null);
  const depth = useRef<HTMLCanvasElement>(null);
  const kept = useRef<LiveFrame | null>(null);
  const [state, setState] = useState<LiveState>({ is: 'waiting' });
  const [told, setTold] = useState<string | null>(null);
  const first = useRef(values);
  first.current = values;
  const address = JSON.stringify(values);
  useEffect(() => {
    setState({ is: 'waiting' });
    setTold(null);
    kept.current = null;
    let drawn = -Infinity;
    const feed = liveSources.of(kind).open(first.current, {
      frame: (frame) => {
        const now = performance.now();
        if (now - drawn >= DRAW_MS) {
          drawn = now;
          // a copy: the picture itself is written again
          kept.current = {
            ...frame,
            raster: { ...frame.raster, data: frame.raster.data.slice() },
            nearness: frame.nearness && { ...frame.nearness, data: frame.nearness.data.slice() },
          };
          draw(colour.current, kept.current, false);
          draw(depth.current, kept.current, true);
          setTold(factsOf(frame));
          setState((s) => (s.is === 'running' ? s : { is: 'running' }));
        }
        feed.free(frame);
      },
      heard: () => undefined,
      state: (next) => setState(next),
    });
    return () => feed.close();
  }, [kind, address]);
  return { state, told, colour, depth, newest: () => kept.current };
}

const factsOf = ({ raster: { width, height }, nearness, channels }: LiveFrame): string => {
  const heard = Object.keys(channels).length;
  return `${width}×${height} px, ${nearness ? 'depth comes with it' : 'depth will be estimated'}${heard > 0 ? `, ${heard} channels` : ''}`;
};

/** Draws a picture's colours, opaque, or its depth as greys: near is white. */
function draw(canvas: HTMLCanvasElement | null, { raster: { width, height, data }, nearness }: LiveFrame, asDepth: boolean): void {
  const context = canvas?.getContext('2d');
  if (!canvas || !context) return;
  if (canvas.width !== width || canvas.height !== height) Object.assign(canvas, { width, height });
  const image = context.createImageData(width, height);
  for (let i = 0; i < image.data.length; i += 4) {
    for (let c = 0; c < 3; c++) image.data[i + c] = asDepth ? (nearness ? data[i + 3]! : 0) : data[i + c]!;
    image.data[i + 3] = 255;
  }
  context.putImageData(image, 0, 0);
}
