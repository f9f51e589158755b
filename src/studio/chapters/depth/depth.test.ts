import { beforeEach, expect, test } from '@jest/globals';
import type { StrokesContent } from '../../../core/depth/layers/brush/content';
import { framingAffine } from '../../../core/document/framing';
import { applyAffine } from '../../../core/raster/resample';
import { newLayer, newProject, newShot } from '../../../core/document/defaults';
import type { Shot } from '../../../core/document/schema';
import { beginGesture, shotOf, useDocument } from '../../state/documentStore';
import { useNotices } from '../../notices/noticeStore';
import { useView } from '../../state/viewStore';
import { beginLayerGesture, changeContent, changeLayer, contentIn, distanceOfRaw, duplicateLayer, isLocked, rawOfDistance } from './layerActions';
import { plateViewOf } from './plateView';
import { fitToMarks, headContent, valuesOfPose } from './tools/head/HeadOverlay';

const plate = { sha256: 'b'.repeat(64), name: 'p.png', width: 1200, height: 800, bits: 8, hfovFromFile: 60 };
let shot: Shot;
const now = (): Shot => shotOf(useDocument.getState())!;
const stroke = (id: string) => ({
  id,
  mode: 'nearer' as const,
  points: [0.5, 0.5, 1],
  radius: 20,
  softness: 0,
  amount: 0.2,
  nearness: 0.5,
  edgeStop: 0,
});

beforeEach(() => {
  shot = newShot(plate);
  shot.settings.layers.push({ ...newLayer('brush'), id: 'brush' }, { ...newLayer('head'), id: 'head' });
  useDocument.getState().open({ ...newProject('T'), shots: [shot] }, shot.id);
  useNotices.setState({ notices: [] });
});

test('what is being done is seen at once and becomes one step of undo', () => {
  const { past } = useDocument.getState();
  const gesture = beginLayerGesture(now().settings.layers[1]!)!;
  for (let k = 1; k <= 5; k++) {
    gesture.set({ content: { strokes: Array.from({ length: k }, (_, i) => stroke(`s${i}`)) } });
    const seen = now().settings.layers[1]!;
    expect(contentIn<StrokesContent>(seen).strokes).toHaveLength(k);
  }
  expect(useDocument.getState().past).toBe(past);
  gesture.commit();
  expect(useDocument.getState().past).toHaveLength(past.length + 1);
  expect(contentIn<StrokesContent>(now().settings.layers[1]!).strokes).toHaveLength(5);
  expect(useDocument.getState().draft).toBeNull();
  useDocument.getState().undo();
  expect(contentIn<StrokesContent>(now().settings.layers[1]!).strokes).toHaveLength(0);
});

test('a gesture is one step however long it takes, and two gestures are two', () => {
  const first = beginGesture();
  for (const v of [10, 20, 30]) {
    changeLayer('head', (l) => void (l.values.yaw = v), first);
    expect(useDocument.getState().past).toHaveLength(0);
  }
  first.commit();
  expect(useDocument.getState().past).toHaveLength(1);
  const second = beginGesture();
  changeLayer('head', (l) => void (l.values.yaw = 40), second);
  second.commit();
  expect(useDocument.getState().past).toHaveLength(2);
  useDocument.getState().undo();
  expect(now().settings.layers[2]!.values.yaw).toBe(30);
});

test('a copy of a layer is its own', () => {
  changeContent<StrokesContent>('brush', (c) => void c.strokes.push(stroke('a')));
  duplicateLayer('brush');
  const copy = now().settings.layers[2]!;
  expect(copy.name).toBe('Brush, copy');
  expect(useView.getState().selectedLayer).toBe(copy.id);
  changeContent<StrokesContent>(copy.id, (c) => void (c.strokes[0]!.amount = 0.9));
  expect(contentIn<StrokesContent>(now().settings.layers[1]!).strokes[0]!.amount).toBe(0.2);
});

test('a locked layer says so', () => {
  expect(isLocked(newLayer('brush'))).toBe(false);
  expect(isLocked({ ...newLayer('brush'), locked: true })).toBe(true);
  expect(useNotices.getState().notices[0]?.text).toBe('Brush is locked.');
});

test('distances and greys of a layer lead back to each other, to infinity too', () => {
  const c = { ...now().settings.calibration, near: 1.5, far: 'infinite' as const, bend: 1.7, low: 0.1, high: 0.8, turnOver: true };
  for (const metres of [1.6, 3, 40, 900]) expect(distanceOfRaw(rawOfDistance(metres, c), c) / metres).toBeCloseTo(1, 4);
  expect(distanceOfRaw(rawOfDistance(Infinity, c), c)).toBe(Infinity);
});

test('places over the picture and in the plate lead back to each other, whatever the framing', () => {
  const framing = { ...now().settings.framing, width: 900, height: 900, mode: 'fit' as const, scale: 1.3, x: 0.1, y: -0.05, turns: 1 };
  const framed = { ...now(), settings: { ...now().settings, framing } };
  const view = plateViewOf(framed, { scale: 0.4, left: 30, top: 12 }, { width: 500, height: 400 }, () => ({ left: 7, top: 9 }) as DOMRect);
  for (const [x, y] of [
    [0, 0],
    [0.3, 0.8],
    [1, 1],
  ] as const) {
    const at = view.toView(x, y);
    const back = view.toPlate(at.x, at.y);
    expect(back.x).toBeCloseTo(x, 9);
    expect(back.y).toBeCloseTo(y, 9);
    expect(view.pointer({ clientX: at.x + 7, clientY: at.y + 9 }).x).toBeCloseTo(x, 9);
    // the picture itself lies there as well
    const p = applyAffine(framingAffine(plate, framing, framing), (at.x - 30) / 0.4, (at.y - 12) / 0.4);
    expect(p.x / plate.width).toBeCloseTo(x, 9);
  }
  // a step of the plate is as long on the screen as `scale` says
  const [a, b] = [view.toView(0.5, 0.5), view.toView(0.5 + 100 / plate.width, 0.5)];
  expect(Math.hypot(a.x - b.x, a.y - b.y)).toBeCloseTo(100 * view.scale, 6);
});

test('a head whose marks are pinned where it is stays as it is; a moved mark moves it', () => {
  const layer = now().settings.layers[2]!;
  const nose = { x: 0.62, y: 0.4 };
  const moved = fitToMarks(layer, { nose }, 1.5);
  // one mark moves the head and turns nothing
  expect(moved.yaw).toBe(0);
  expect(moved.height).toBeCloseTo(40, 6);
  expect(Number(moved.x)).toBeGreaterThan(60);
  expect(headContent(layer).marks).toEqual({});
  // what a pose may be is kept within what the rows allow
  expect(valuesOfPose({ yaw: 500, pitch: 0, roll: 0, height: 99, x: 0, y: 0 }).yaw).toBe(180);
});
