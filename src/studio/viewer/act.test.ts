import { beforeEach, expect, test } from '@jest/globals';
import type { StrokesContent } from '../../core/depth/layers/brush/content';
import { newLayer, newProject, newShot } from '../../core/document/defaults';
import type { Shot } from '../../core/document/schema';
import type { PreviewPart } from '../../engine/messages/protocol';
import { brushPicking } from '../chapters/depth/tools/brush/brushHandling';
import { useBrush } from '../chapters/depth/tools/brush/brushStore';
import { shotOf, useDocument } from '../state/documentStore';
import { useSession } from '../state/sessionStore';
import { useNotices } from '../notices/noticeStore';
import { useView } from '../state/viewStore';
import { clickPicture } from './act';

const plate = { sha256: 'a'.repeat(64), name: 'p.png', width: 40, height: 20, bits: 8, hfovFromFile: 60 };
let shot: Shot;
const brushOf = (): StrokesContent => shotOf(useDocument.getState())!.settings.layers.find((l) => l.id === 'brush')!.content as StrokesContent;

beforeEach(() => {
  shot = newShot(plate);
  shot.settings.layers.push({ ...newLayer('brush'), id: 'brush' });
  useDocument.getState().open({ ...newProject('T'), shots: [shot] }, shot.id);
  const n = 40 * 20;
  // the left half of the stack is unknown, the right half is 0.7; clean-up filled it with 0.4
  const stack = Float32Array.from({ length: n }, (_, i) => (i % 40 < 20 ? NaN : 0.7));
  const part = { stage: 'full', size: { width: 40, height: 20 }, raw: new Float32Array(n).fill(0.4), distance: new Float32Array(n).fill(5), stack };
  useSession.setState({ preview: part as unknown as PreviewPart });
  useNotices.setState({ notices: [] });
  useView.setState({ chapter: 'depth', picking: null, selectedLayer: 'brush' });
  useBrush.setState({ mode: 'nearer', radius: 60, softness: 0.5, amount: 0.2, nearness: 0.8, edgeStop: 0, stroke: null });
});

test('a click with the brush in hand is one dab at full pressure, and one step', () => {
  clickPicture(0.25, 0.5);
  expect(brushOf().strokes).toHaveLength(1);
  expect(brushOf().strokes[0]).toMatchObject({ mode: 'nearer', points: [0.25, 0.5, 1], radius: 60, amount: 0.2 });
  clickPicture(0.75, 0.5);
  expect(useDocument.getState().past).toHaveLength(2);
  expect(new Set(brushOf().strokes.map((s) => s.id)).size).toBe(2);
});

test('a dab lies on the same thing of the plate however it is framed', () => {
  useDocument.getState().change((p) => void Object.assign(p.shots[0]!.settings.framing, { scale: 2, x: 0.1, turns: 2 }));
  clickPicture(0.5, 0.5);
  const [x, y] = brushOf().strokes[0]!.points;
  // turned upside down and twice as large: the middle of the output is a tenth of its width, so a twentieth of the plate's, to the side
  expect(Math.abs(x! - 0.5)).toBeCloseTo(0.05, 6);
  expect(y).toBeCloseTo(0.5, 6);
});

test('a distance is picked from the stack as it was before clean-up; nothing is painted meanwhile', () => {
  useView.setState({ picking: brushPicking });
  clickPicture(0.9, 0.5);
  expect(useBrush.getState()).toMatchObject({ mode: 'set' });
  expect(useBrush.getState().nearness).toBeCloseTo(0.7, 6);
  expect(useView.getState().picking).toBeNull();
  expect(useDocument.getState().past).toHaveLength(0);
});

test('where nothing is known there is no distance to pick, and the brush stays as it was', () => {
  useView.setState({ picking: brushPicking });
  clickPicture(0.1, 0.5);
  expect(useBrush.getState()).toMatchObject({ mode: 'nearer', nearness: 0.8 });
  expect(useView.getState().picking).toBeNull();
});

test('a locked brush says so; other layers, and clicks beside the picture, do nothing', () => {
  useDocument.getState().change((p) => void (p.shots[0]!.settings.layers.find((l) => l.id === 'brush')!.locked = true));
  const steps = useDocument.getState().past.length;
  clickPicture(0.5, 0.5);
  expect(useNotices.getState().notices.map((n) => n.text)).toEqual(['Brush is locked.']);
  useView.setState({ selectedLayer: shot.settings.layers[0]!.id });
  clickPicture(0.5, 0.5);
  clickPicture(1.2, 0.5);
  useSession.setState({ preview: null });
  clickPicture(0.5, 0.5);
  expect(useDocument.getState().past).toHaveLength(steps);
});
