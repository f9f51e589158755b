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
  const shot = useShot()!;
  const tint = useTint();
  const { drawing, chosen, point, set } = useShapeTool();
  const { shapes } = contentIn<ShapesContent>(layer);
  const active = shapes.find((s) => s.id === chosen[chosen.length - 1]);
  const { calibration } = shot.settings;
  const heads = shot.settings.layers.filter((l) => layerOf(l.kind).anchor !== undefined);
  const change = (recipe: (s: Shape) => void, gesture?: Gesture): void => {
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
  const distance = active ? distanceOfRaw(active.nearness, calibration) : 0;
  return (
    <>
      <Section title="Shapes" aside={<span className="mono">{shapes.length}</span>} last={!active}>
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
                  onClick={(e) =>
                    set({
                      chosen: e.shiftKey || e.ctrlKey || e.metaKey ? (on ? chosen.filter((c) => c !== s.id) : [...chosen, s.id]) : [s.id],
                      point: null,
                      drawing: null,
                    })
                  }
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
      <FollowSection layer={layer} />
      {active && (
        <Section title={chosen.length > 1 ? `${chosen.length} shapes` : active.name} last>
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
              onChange={(on) =>
                change((s) => {
                  const b = boundsOf([s]);
                  s.slope = on
                    ? { nearness: Math.max(0, s.nearness - 0.2), x0: (b.left + b.right) / 2, y0: b.bottom, x1: (b.left + b.right) / 2, y1: b.top }
                    : null;
                })
              }
            />
          )}
          {active.slope && (
            <NumberRow
              param={SECOND}
              value={distanceOfRaw(active.slope.nearness, calibration)}
              tint={tint(distanceOfRaw(active.slope.nearness, calibration))}
              onChange={(v, gesture) => change((s) => s.slope && (s.slope.nearness = rawOfDistance(v, calibration)), gesture)}
            />
          )}
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
          <Box sx={{ display: 'flex', gap: '8px', marginTop: '6px' }}>
            <Button fullWidth onClick={duplicate}>
              Duplicate
            </Button>
            <Button fullWidth onClick={() => deleteChosen(layer)}>
              {point === null ? 'Delete' : 'Delete point'}
            </Button>
          </Box>
        </Section>
      )}
    </>
  );
}
