import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import { layerOf } from '../../../../../core/depth/layers/registry';
import type { Shape, ShapesContent } from '../../../../../core/depth/layers/shape/content';
import { boundsOf } from '../../../../../core/depth/layers/shape/edit';
import { newId } from '../../../../../core/document/defaults';
import type { Layer } from '../../../../../core/document/schema';
import { copyOf } from '../../../../../core/values/copy';
import { formatMetres, metres, percent, pixels } from '../../../../../core/values/params';
import { NumberRow } from '../../../../controls/NumberRow';
import { LabelRow, Section, ToggleRow } from '../../../../controls/rows';
import { useTint } from '../../../../controls/useTint';
import { useShot, type Gesture } from '../../../../state/documentStore';
import { changeContent, contentIn, distanceOfRaw, distanceParam, isLocked, rawOfDistance } from '../../layerActions';
import { FollowSection } from './FollowSection';
import { deleteChosen } from './shapeEdits';
import { useShapeTool } from './shapeStore';

const DISTANCE = distanceParam('Distance');
const SECOND = distanceParam('Second', 'Holds at the other end of the direction');
const FEATHER = pixels({
  label: 'Feather',
  min: 0,
  max: 200,
  highest: 2000,
  default: 0,
  decimals: 0,
  step: 1,
  help: 'Width of the soft edge, half inside and half outside',
});
const GROW = pixels({
  label: 'Grow',
  min: -50,
  max: 50,
  lowest: -2000,
  highest: 2000,
  default: 0,
  decimals: 0,
  step: 1,
  help: 'Shrinks where negative',
});
const OPACITY = percent({ label: 'Opacity', min: 0, max: 100, default: 100 });
const OWN = pixels({
  label: 'At this point',
  min: 0,
  max: 200,
  highest: 2000,
  default: 0,
  decimals: 0,
  step: 1,
  help: 'Feather added at the chosen point',
});
const BEHIND = metres({
  label: 'Behind it',
  min: -1,
  max: 1,
  lowest: -1000,
  highest: 1000,
  default: 0,
  scale: 'linear',
  help: 'Before it where negative',
});

/** The shapes of a layer and what the chosen ones are set to. */
export function ShapePanel({ layer }: { layer: Layer }) {
  const { chosen } = useShapeTool();
  const { shapes } = contentIn<ShapesContent>(layer);
  const active = shapes.find((s) => s.id === chosen[chosen.length - 1]);
  return (
    <>
      <ShapeList layer={layer} shapes={shapes} last={!active} />
      <FollowSection layer={layer} />
      {active && <ShapeValues layer={layer} active={active} />}
    </>
  );
}

/** Drawing, and the shapes that are there. */
function ShapeList({ layer, shapes, last }: { layer: Layer; shapes: readonly Shape[]; last: boolean }) {
  const { calibration } = useShot()!.settings;
  const tint = useTint();
  const { drawing, chosen, set } = useShapeTool();
  const choose = (id: string, more: boolean): void => {
    const others = chosen.filter((c) => c !== id);
    set({ chosen: !more ? [id] : others.length < chosen.length ? others : [...chosen, id], point: null, drawing: null });
  };
  return (
    <Section title="Shapes" aside={<span className="mono">{shapes.length}</span>} last={last}>
      <Button
        fullWidth
        variant={drawing ? 'contained' : 'outlined'}
        onClick={() => !isLocked(layer) && set({ drawing: drawing ? null : [], chosen: [], point: null })}
      >
        {drawing ? 'Stop drawing' : 'Draw a shape'}
      </Button>
      <Box sx={{ color: 'var(--mute)', fontSize: 11.5, margin: '6px 0' }}>
        {drawing
          ? 'Click for corners, pull for curves. Click the first point or press Enter to close; Backspace takes one back. Enter before the first click lays a square.'
          : 'Double click an outline to add a point, a point to round it. Shift chooses several.'}
      </Box>
      <Box role="list" aria-label="Shapes" sx={{ maxHeight: 150, overflowY: 'auto', margin: '0 -14px' }}>
        {shapes.map((s) => {
          const on = chosen.includes(s.id);
          const at = distanceOfRaw(s.nearness, calibration);
          return (
            <Box key={s.id} role="listitem">
              <ButtonBase
                aria-pressed={on}
                onClick={(e) => choose(s.id, e.shiftKey || e.ctrlKey || e.metaKey)}
                sx={{ width: '100%', height: 26, padding: '0 14px', justifyContent: 'space-between', ...(on && { background: 'var(--raise)' }) }}
              >
                <span>{s.name}</span>
                <span className="mono" style={{ color: tint(at) }}>
                  {s.tie ? 'tied' : formatMetres(at)}
                </span>
              </ButtonBase>
            </Box>
          );
        })}
      </Box>
    </Section>
  );
}

interface ValuesProps {
  readonly active: Shape;
  /** changes every shape that is chosen */
  readonly change: (recipe: (s: Shape) => void, gesture?: Gesture) => void;
}

/** What the chosen shapes are set to, as the last one of them is. */
function ShapeValues({ layer, active }: { layer: Layer; active: Shape }) {
  const { chosen, point, set } = useShapeTool();
  const change: ValuesProps['change'] = (recipe, gesture) => {
    if (!isLocked(layer))
      changeContent<ShapesContent>(layer.id, (c) => c.shapes.filter((s) => chosen.includes(s.id)).forEach((s) => recipe(s)), gesture);
  };
  const duplicate = (): void => {
    const ids = chosen.map(() => newId());
    changeContent<ShapesContent>(layer.id, (c) => {
      const copies = c.shapes.filter((s) => chosen.includes(s.id)).map((s, i) => ({ ...copyOf(s), id: ids[i]!, name: `${s.name}, copy` }));
      for (const copy of copies) for (const p of copy.points) Object.assign(p, { x: p.x + 0.02, y: p.y + 0.02 });
      c.shapes.push(...copies);
    });
    set({ chosen: ids, point: null });
  };
  return (
    <Section title={chosen.length > 1 ? `${chosen.length} shapes` : active.name} last>
      <Distances active={active} change={change} />
      <NumberRow param={FEATHER} value={active.feather} onChange={(v, gesture) => change((s) => void (s.feather = v), gesture)} />
      {point !== null && active.points[point] && (
        <NumberRow
          param={OWN}
          value={active.points[point].feather}
          onChange={(v, gesture) => change((s) => s.id === active.id && s.points[point] && (s.points[point].feather = v), gesture)}
        />
      )}
      <NumberRow param={GROW} value={active.grow} onChange={(v, gesture) => change((s) => void (s.grow = v), gesture)} />
      <NumberRow param={OPACITY} value={100 * active.opacity} onChange={(v, gesture) => change((s) => void (s.opacity = v / 100), gesture)} />
      <Tie active={active} change={change} />
      <Box sx={{ display: 'flex', gap: '8px', marginTop: '6px' }}>
        <Button fullWidth onClick={duplicate}>
          Duplicate
        </Button>
        <Button fullWidth onClick={() => deleteChosen(layer)}>
          {point === null ? 'Delete' : 'Delete point'}
        </Button>
      </Box>
    </Section>
  );
}

/** How far a shape is: at one distance, or from one to another along a direction. */
function Distances({ active, change }: ValuesProps) {
  const { calibration } = useShot()!.settings;
  const tint = useTint();
  const distance = distanceOfRaw(active.nearness, calibration);
  const second = active.slope && distanceOfRaw(active.slope.nearness, calibration);
  /** from the foot of the shape up to its top */
  const sloped = (s: Shape): Shape['slope'] => {
    const { left, right, top, bottom } = boundsOf([s]);
    const middle = (left + right) / 2;
    return { nearness: Math.max(0, s.nearness - 0.2), x0: middle, y0: bottom, x1: middle, y1: top };
  };
  return (
    <>
      {!active.tie && (
        <NumberRow
          param={DISTANCE}
          value={distance}
          tint={tint(distance)}
          onChange={(v, gesture) => change((s) => void (s.nearness = rawOfDistance(v, calibration)), gesture)}
        />
      )}
      {!active.tie && (
        <ToggleRow
          label="Two distances"
          help="From one to another along a direction"
          value={active.slope !== null}
          onChange={(on) => change((s) => void (s.slope = on ? sloped(s) : null))}
        />
      )}
      {second !== null && (
        <NumberRow
          param={SECOND}
          value={second}
          tint={tint(second)}
          onChange={(v, gesture) => change((s) => s.slope && (s.slope.nearness = rawOfDistance(v, calibration)), gesture)}
        />
      )}
    </>
  );
}

/** The head form from which a shape keeps its distance, where there is one. */
function Tie({ active, change }: ValuesProps) {
  const heads = useShot()!.settings.layers.filter((l) => layerOf(l.kind).anchor !== undefined);
  return (
    <>
      {heads.length > 0 && (
        <LabelRow label="Tied to" help="Keeps its distance from a head form: hair, hats and hands">
          <Select
            value={active.tie?.layer ?? ''}
            displayEmpty
            onChange={(e) => change((s) => void (s.tie = e.target.value ? { layer: e.target.value, offset: s.tie?.offset ?? 0 } : null))}
            inputProps={{ 'aria-label': 'Tied to' }}
          >
            <MenuItem value="">nothing</MenuItem>
            {heads.map((h) => (
              <MenuItem key={h.id} value={h.id}>
                {h.name}
              </MenuItem>
            ))}
          </Select>
        </LabelRow>
      )}
      {active.tie && (
        <NumberRow param={BEHIND} value={active.tie.offset} onChange={(v, gesture) => change((s) => s.tie && (s.tie.offset = v), gesture)} />
      )}
    </>
  );
}
