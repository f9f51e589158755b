import type { ShapesContent } from '../../../../../core/depth/layers/shape/content';
import { useClipFrame } from '../../../../state/shotNow';
import { useTint } from '../../../../controls/useTint';
import { contentIn, distanceOfRaw } from '../../layerActions';
import type { OverlayProps } from '../../plateView';
import { HandleLines, PointHandles } from './PointHandles';
import { DrawnCurve, ShapeOutlines } from './ShapeOutlines';
import { shapeEdits } from './shapeEdits';
import { boxOf } from './shapeLines';
import { useShapeTool } from './shapeStore';
import { SlopeHandles, SlopeLine } from './SlopeHandles';
import { useDrawing } from './useDrawing';
import { WholeFrame, WholeHandles } from './WholeHandles';

/** Closed curves over the picture: drawn, then edited by their points, their handles, and as a whole. */
export function ShapeOverlay(props: OverlayProps) {
  const frame = useClipFrame();
  const { follow } = contentIn<ShapesContent>(props.layer);
  // on other frames of a clip what was drawn has moved on
  return follow && follow.at !== frame ? null : <DrawnShapes {...props} />;
}

function DrawnShapes({ shot, layer, view }: OverlayProps) {
  const { drawing, chosen, point } = useShapeTool();
  const tint = useTint();
  const draw = useDrawing(shot, layer, view);
  const edits = shapeEdits(shot, layer, view);
  const { shapes } = contentIn<ShapesContent>(layer);
  const selected = shapes.filter((s) => chosen.includes(s.id));
  const active = drawing ? undefined : shapes.find((s) => s.id === chosen[chosen.length - 1]);
  const box = selected.length > 0 && !drawing ? boxOf(selected, view) : null;
  const chosenPoint = active && point !== null ? active.points[point] : undefined;
  return (
    <>
      <svg
        width={view.width}
        height={view.height}
        data-testid="shapes"
        onPointerDown={draw}
        style={{ position: 'absolute', inset: 0, pointerEvents: drawing ? 'all' : 'none', cursor: 'crosshair', touchAction: 'none' }}
      >
        <ShapeOutlines shapes={shapes} colourOf={(s) => tint(distanceOfRaw(s.nearness, shot.settings.calibration))} edits={edits} view={view} />
        {drawing && <DrawnCurve points={drawing} view={view} />}
        {active?.slope && <SlopeLine slope={active.slope} view={view} />}
        {box && <WholeFrame box={box} />}
        {chosenPoint && <HandleLines point={chosenPoint} view={view} />}
      </svg>
      {box && <WholeHandles box={box} edits={edits} />}
      {active && <PointHandles shape={active} edits={edits} view={view} />}
      {active?.slope && <SlopeHandles shape={active} slope={active.slope} edits={edits} view={view} />}
    </>
  );
}
