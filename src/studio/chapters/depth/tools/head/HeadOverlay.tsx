import Box from '@mui/material/Box';
import { useEffect, useRef, type RefObject } from 'react';
import { contentOf } from '../../../../../core/depth/definition';
import { fitParts, fitPose, type PinnedMarks } from '../../../../../core/depth/layers/head/fit';
import { headLayer, placeMesh, poseOf, shapeOf, type HeadContent, type HeadValues } from '../../../../../core/depth/layers/head/head';
import { headMarks, markNames, placeMarks, type HeadPose, type MarkName } from '../../../../../core/depth/layers/head/marks';
import { headMesh } from '../../../../../core/depth/layers/head/surface';
import type { Layer } from '../../../../../core/document/schema';
import { clampNumber, valuesSchema } from '../../../../../core/values/params';
import { keyGesture } from '../../../../state/documentStore';
import { changeLayer, dragLayer, isLocked } from '../../layerActions';
import type { OverlayProps } from '../../plateView';
import { Handle } from '../Handle';

export const headValues = (layer: Layer): HeadValues & { body: boolean } => valuesSchema(headLayer.params).parse(layer.values);
export const headContent = (layer: Layer): HeadContent => contentOf<HeadContent>(headLayer, layer.content);

const kept = (name: keyof HeadPose, value: number): number => clampNumber(headLayer.params[name as 'yaw'], value);

/** A pose as the layer's values. */
export const valuesOfPose = (pose: HeadPose): Layer['values'] => ({
  yaw: kept('yaw', pose.yaw),
  pitch: kept('pitch', pose.pitch),
  roll: kept('roll', pose.roll),
  height: kept('height', 100 * pose.height),
  x: kept('x', 100 * pose.x),
  y: kept('y', 100 * pose.y),
});

/** What a head's values become when its marks lie there: turned as a whole, then its unlocked parts moved. */
export function fitToMarks(layer: Layer, marks: PinnedMarks, aspect: number): Layer['values'] {
  const values = headValues(layer);
  const pose = fitPose(marks, poseOf(values), shapeOf(values), aspect);
  const out = valuesOfPose(pose);
  // parts are moved once the turn is settled by enough marks
  if (Object.keys(marks).length < 6) return out;
  const parts = fitParts(marks, pose, shapeOf(values), aspect, headContent(layer).locked);
  for (const [part, p] of Object.entries(parts)) {
    out[`${part}Across`] = Number(p.across.toFixed(2));
    out[`${part}Up`] = Number(p.up.toFixed(2));
  }
  return out;
}

/** The head as a mesh over the picture; its marks are dragged onto the face and the head follows. */
export function HeadOverlay({ shot, layer, view }: OverlayProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const values = headValues(layer);
  const content = headContent(layer);
  const aspect = shot.plate.width / shot.plate.height;
  const pose = poseOf(values);
  const places = placeMarks(pose, shapeOf(values), aspect);
  useDrawnMesh(canvas, layer, view, aspect);

  const drag = (event: React.PointerEvent, name: MarkName): void => {
    const from = view.pointer(event);
    const at = content.marks[name] ?? places[name];
    dragLayer(event, layer, (e) => {
      const p = view.pointer(e);
      const marks = { ...content.marks, [name]: { x: at.x + p.x - from.x, y: at.y + p.y - from.y } };
      return { values: fitToMarks(layer, marks, aspect), content: { ...content, marks } };
    });
  };
  /** one step of the keys, shares of the plate */
  const stepOf = (dx: number, dy: number) => ({ x: (2 * dx) / shot.plate.width, y: (2 * dy) / shot.plate.height });
  const step = (dx: number, dy: number, name: MarkName): void => {
    if (isLocked(layer)) return;
    const by = stepOf(dx, dy);
    const at = content.marks[name] ?? places[name];
    const marks = { ...content.marks, [name]: { x: at.x + by.x, y: at.y + by.y } };
    changeLayer(
      layer.id,
      (l) => {
        Object.assign(l.values, fitToMarks(layer, marks as PinnedMarks, aspect));
        l.content = { ...content, marks };
      },
      keyGesture(`mark:${name}`),
    );
  };
  /** The head carried as a whole: its marks go along. */
  const carried = (x: number, y: number) => ({
    values: valuesOfPose({ ...pose, x: pose.x + x, y: pose.y + y }),
    content: {
      ...content,
      marks: Object.fromEntries(Object.entries(content.marks).map(([n, m]) => [n, { x: m!.x + x, y: m!.y + y }])),
    },
  });
  const carry = (dx: number, dy: number): void => {
    if (isLocked(layer)) return;
    const by = stepOf(dx, dy);
    const next = carried(by.x, by.y);
    changeLayer(
      layer.id,
      (l) => {
        Object.assign(l.values, next.values);
        l.content = next.content;
      },
      keyGesture(`head:${layer.id}`),
    );
  };
  const turnBy = (event: React.PointerEvent): void => {
    const from = view.pointer(event);
    dragLayer(event, layer, (e) => {
      const p = view.pointer(e);
      return carried(p.x - from.x, p.y - from.y);
    });
  };
  const middle = view.toView(pose.x, pose.y);
  return (
    <>
      <Box
        component="canvas"
        ref={canvas}
        aria-hidden="true"
        sx={{ position: 'absolute', inset: 0, width: '100%', height: '100%', pointerEvents: 'none' }}
      />
      <Handle at={middle} square label="Move the head" onPointerDown={turnBy} onStep={carry} />
      {markNames.map((name) => {
        const p = content.marks[name] ?? places[name];
        return (
          <Handle
            key={name}
            at={view.toView(p.x, p.y)}
            chosen={content.marks[name] !== undefined}
            label={`${headMarks[name].label}${content.marks[name] ? ', placed' : ''}`}
            onPointerDown={(e) => drag(e, name)}
            onStep={(dx, dy) => step(dx, dy, name)}
          />
        );
      })}
    </>
  );
}

/** Draws the head's mesh where it has changed: a picture that arrives moves no line. */
function useDrawnMesh(canvas: RefObject<HTMLCanvasElement | null>, layer: Layer, view: OverlayProps['view'], aspect: number): void {
  const drawn = useRef('');
  useEffect(() => {
    const c = canvas.current!;
    const ratio = window.devicePixelRatio || 1;
    const onto = { origin: view.toView(0, 0), x: view.toView(1, 0), y: view.toView(0, 1) };
    const key = JSON.stringify([layer.values, onto, view.width, view.height, ratio]);
    if (drawn.current === key) return;
    drawn.current = key;
    if (c.width !== Math.round(view.width * ratio)) c.width = Math.round(view.width * ratio);
    if (c.height !== Math.round(view.height * ratio)) c.height = Math.round(view.height * ratio);
    drawMesh(c, ratio, view, onto, headValues(layer), aspect);
  });
}

/** Every how many rows and columns of the mesh a line is drawn. */
const COLUMN_STEP = 4;
const ROW_STEP = 4;
/** Columns and rows of the head's grid of corners (surface.ts). */
const ACROSS = 113;
const DOWN = 85;

/** Draws the lines of the head's near side; `onto` is where three corners of the plate lie in the view. */
function drawMesh(
  canvas: HTMLCanvasElement,
  ratio: number,
  view: OverlayProps['view'],
  onto: Record<'origin' | 'x' | 'y', { readonly x: number; readonly y: number }>,
  values: HeadValues & { body: boolean },
  aspect: number,
): void {
  const context = canvas.getContext('2d')!;
  context.setTransform(ratio, 0, 0, ratio, 0, 0);
  context.clearRect(0, 0, view.width, view.height);
  const mesh = headMesh(shapeOf(values), false);
  const at = placeMesh(mesh, poseOf(values), aspect);
  const n = ACROSS * DOWN;
  const xs = new Float32Array(n);
  const ys = new Float32Array(n);
  const { origin, x, y } = onto;
  for (let i = 0; i < n; i++) {
    const [u, v] = [at[i * 3]!, at[i * 3 + 1]!];
    xs[i] = origin.x + u * (x.x - origin.x) + v * (y.x - origin.x);
    ys[i] = origin.y + u * (x.y - origin.y) + v * (y.y - origin.y);
  }
  const faces = (i: number, j: number): boolean => {
    const a = j * ACROSS + i;
    const [b, c] = [i + 1 < ACROSS ? a + 1 : a - 1, j + 1 < DOWN ? a + ACROSS : a - ACROSS];
    const sign = (i + 1 < ACROSS ? 1 : -1) * (j + 1 < DOWN ? 1 : -1);
    return sign * ((xs[b]! - xs[a]!) * (ys[c]! - ys[a]!) - (ys[b]! - ys[a]!) * (xs[c]! - xs[a]!)) > 0;
  };
  const path = new Path2D();
  const line = (cells: readonly (readonly [number, number])[]): void => {
    let down = false;
    for (const [i, j] of cells) {
      const k = j * ACROSS + i;
      if (!faces(i, j)) {
        down = false;
        continue;
      }
      if (down) path.lineTo(xs[k]!, ys[k]!);
      else path.moveTo(xs[k]!, ys[k]!);
      down = true;
    }
  };
  for (let i = 0; i < ACROSS; i += COLUMN_STEP) line(Array.from({ length: DOWN }, (_, j) => [i, j] as const));
  for (let j = ROW_STEP; j < DOWN; j += ROW_STEP) line(Array.from({ length: ACROSS }, (_, i) => [i, j] as const));
  context.strokeStyle = 'rgba(0,0,0,.4)';
  context.lineWidth = 2;
  context.stroke(path);
  context.strokeStyle = 'rgba(255,255,255,.75)';
  context.lineWidth = 0.8;
  context.stroke(path);
}
