import DeleteIcon from '@mui/icons-material/DeleteOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import IconButton from '@mui/material/IconButton';
import type { Stroke, StrokesContent } from '../../../../../core/depth/layers/brush/content';
import type { Layer } from '../../../../../core/document/schema';
import { formatMetres, formatNumber } from '../../../../../core/values/params';
import { NumberRow } from '../../../../controls/NumberRow';
import { ChoiceRow, Section } from '../../../../controls/rows';
import { useTint } from '../../../../controls/useTint';
import { useShot, type Gesture } from '../../../../state/documentStore';
import { useViewPart } from '../../../../state/viewStore';
import { changeContent, contentIn, distanceOfRaw, distanceParam, isLocked, rawOfDistance } from '../../layerActions';
import { brushPicking } from './brushHandling';
import { AMOUNT, EDGE_STOP, MODE_LABELS, MODES, RADIUS, SOFTNESS, useBrush, type BrushSettings } from './brushStore';

const DISTANCE = distanceParam('Distance', 'What “Set” sets; pick it in the picture (s) or drag it on the rail');
/** Strokes listed at most; older ones are counted. */
const LISTED = 60;

/** The settings in hand: those of the brush, or of the stroke that is chosen. */
function useSettingsInHand(layer: Layer) {
  const brush = useBrush();
  const { strokes } = contentIn<StrokesContent>(layer);
  const chosen = strokes.find((s) => s.id === brush.stroke);
  const values: BrushSettings = chosen ?? brush;
  const change = (part: Partial<BrushSettings>, gesture?: Gesture): void => {
    if (!chosen) brush.set(part);
    else if (!isLocked(layer))
      changeContent<StrokesContent>(
        layer.id,
        (c) => {
          const found = c.strokes.find((s) => s.id === chosen.id);
          if (found) Object.assign(found, part);
        },
        gesture,
      );
  };
  return { title: chosen ? `Stroke ${strokes.indexOf(chosen) + 1}` : 'Brush', ofStroke: chosen !== undefined, values, change };
}

/** The brush in hand, or the stroke chosen in the list. */
export function BrushPanel({ layer }: { layer: Layer }) {
  const { title, ofStroke, values, change } = useSettingsInHand(layer);
  return (
    <>
      <Section
        title={title}
        aside={
          ofStroke && (
            <Button onClick={() => useBrush.getState().set({ stroke: null })} sx={{ height: 22, padding: '0 8px' }}>
              Back to the brush
            </Button>
          )
        }
      >
        <ChoiceRow bare label="What the brush does" value={values.mode} options={MODES} onChange={(mode) => change({ mode })} />
        <Box sx={{ height: 6 }} />
        <NumberRow param={RADIUS} value={values.radius} onChange={(v, gesture) => change({ radius: v }, gesture)} />
        <NumberRow param={SOFTNESS} value={100 * values.softness} onChange={(v, gesture) => change({ softness: v / 100 }, gesture)} />
        <NumberRow param={AMOUNT} value={100 * values.amount} onChange={(v, gesture) => change({ amount: v / 100 }, gesture)} />
        {values.mode === 'set' && <SetDistance nearness={values.nearness} onChange={(nearness, gesture) => change({ nearness }, gesture)} />}
        <NumberRow param={EDGE_STOP} value={100 * values.edgeStop} onChange={(v, gesture) => change({ edgeStop: v / 100 }, gesture)} />
      </Section>
      <StrokeList layer={layer} />
    </>
  );
}

/** The distance that the brush sets: typed, or picked in the picture. */
function SetDistance({ nearness, onChange }: { nearness: number; onChange: (nearness: number, gesture?: Gesture) => void }) {
  const { calibration } = useShot()!.settings;
  const tint = useTint();
  const { picking, set } = useViewPart('picking', 'set');
  const distance = distanceOfRaw(nearness, calibration);
  const picks = picking === brushPicking;
  return (
    <>
      <NumberRow
        param={DISTANCE}
        value={distance}
        tint={tint(distance)}
        onChange={(v, gesture) => onChange(rawOfDistance(v, calibration), gesture)}
      />
      <Button fullWidth aria-pressed={picks} onClick={() => set({ picking: picks ? null : brushPicking })} sx={{ marginTop: '4px' }}>
        {picks ? 'Click in the picture…' : 'Pick the distance (s)'}
      </Button>
    </>
  );
}

/** The strokes of the layer, the latest first. */
function StrokeList({ layer }: { layer: Layer }) {
  const { strokes } = contentIn<StrokesContent>(layer);
  const latest = strokes.map((stroke, i) => ({ stroke, number: i + 1 })).slice(-LISTED);
  return (
    <Section title="Strokes" aside={<span className="mono">{strokes.length}</span>} last>
      {strokes.length === 0 && <Box sx={{ color: 'var(--mute)' }}>Paint over the picture. Hold space to move it instead.</Box>}
      <Box role="list" aria-label="Strokes, the latest first" sx={{ maxHeight: 180, overflowY: 'auto', margin: '0 -14px' }}>
        {latest.reverse().map(({ stroke, number }) => (
          <StrokeRow key={stroke.id} layer={layer} stroke={stroke} number={number} />
        ))}
      </Box>
      {strokes.length > LISTED && <Box sx={{ color: 'var(--mute)' }}>and {strokes.length - LISTED} earlier ones</Box>}
    </Section>
  );
}

function StrokeRow({ layer, stroke, number }: { layer: Layer; stroke: Stroke; number: number }) {
  const { calibration } = useShot()!.settings;
  const tint = useTint();
  const brush = useBrush();
  const chosen = stroke.id === brush.stroke;
  const distance = distanceOfRaw(stroke.nearness, calibration);
  const remove = (): void => {
    if (isLocked(layer)) return;
    changeContent<StrokesContent>(layer.id, (c) => void (c.strokes = c.strokes.filter((s) => s.id !== stroke.id)));
    if (chosen) brush.set({ stroke: null });
  };
  return (
    <Box
      role="listitem"
      onKeyDown={(e) => e.key === 'Delete' && remove()}
      sx={{ display: 'flex', alignItems: 'center', height: 26, padding: '0 6px 0 14px', ...(chosen && { background: 'var(--raise)' }) }}
    >
      <ButtonBase
        aria-pressed={chosen}
        onClick={() => brush.set({ stroke: chosen ? null : stroke.id })}
        sx={{ flex: 1, height: '100%', justifyContent: 'space-between', gap: '8px' }}
      >
        <span>
          <span className="mono" style={{ color: 'var(--mute)', marginRight: 8 }}>
            {number}
          </span>
          {MODE_LABELS[stroke.mode]}
        </span>
        <span className="mono" style={{ color: stroke.mode === 'set' ? tint(distance) : 'var(--mute)' }}>
          {strokeFigure(stroke, distance)}
        </span>
      </ButtonBase>
      <IconButton aria-label={`Delete stroke ${number}`} onClick={remove} sx={{ padding: '2px' }}>
        <DeleteIcon />
      </IconButton>
    </Box>
  );
}

const strokeFigure = (s: Stroke, distance: number): string =>
  s.mode === 'set' ? formatMetres(distance) : `${formatNumber(AMOUNT, 100 * s.amount)} · ${formatNumber(RADIUS, s.radius)}`;
