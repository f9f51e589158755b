import { beforeEach, describe, expect, test } from '@jest/globals';
import { calibrateMap } from '../../core/depth/calibrate';
import { calibrationOf, newProject, newShot } from '../../core/document/defaults';
import type { Shot } from '../../core/document/schema';
import { lensBlur, lensBlurRadius } from '../../core/effects/lens/lensBlur';
import { newPlane } from '../../core/picture';
import { renderLens } from '../../core/shot/frame';
import { valuesSchema } from '../../core/values/params';
import type { PreviewPart } from '../../engine/messages/protocol';
import { fitInPlace, fitOf, rawAtStakes } from '../chapters/calibrate/stakes';
import { shotOf, useDocument } from '../state/documentStore';
import { useSession } from '../state/sessionStore';
import { useView } from '../state/viewStore';
import { usualPicking } from '../chapters/effects/picking';
import { clickPicture } from './act';
import { fitScale, LARGEST_ZOOM, panBy, placementOf, zoomAt } from '../picture/geometry';
import { activeLensBlur, outputToPlate, plateToOutput, probeAt } from '../picture/probe';

const plate = { sha256: 'a'.repeat(64), name: 'p.png', width: 160, height: 90, bits: 8, hfovFromFile: 60 };

/** A preview of a ramp: raw grey grows from left to right. */
const partOf = (shot: Shot): PreviewPart => {
  const raw = newPlane(160, 90);
  for (let i = 0; i < raw.data.length; i++) raw.data[i] = (i % 160) / 159;
  const distance = calibrateMap(raw, calibrationOf(shot.settings.calibration));
  return {
    stage: 'full',
    size: { width: 160, height: 90 },
    milliseconds: 1,
    fingerprints: { plate: '', depth: '', before: '', width: 160 },
    plate: null,
    depth: null,
    finished: null,
    marks: null,
    shown: null,
    loop: null,
    figure: null,
    chart: null,
    before: null,
    cleaned: null,
    stack: new Float32Array(0),
    raw: raw.data,
    distance: distance.data,
    hues: new Float32Array(129),
    histogram: new Float32Array(1),
  };
};

let shot: Shot;
beforeEach(() => {
  shot = newShot(plate);
  shot.settings.calibration = { ...shot.settings.calibration, near: 1, far: 10 };
  useDocument.getState().open({ ...newProject('T'), shots: [shot] }, shot.id);
  useSession.setState({ preview: partOf(shot) });
  useView.setState({ chapter: 'effects', picking: null, selectedEffect: null });
});
const now = (): Shot => shotOf(useDocument.getState())!;

test('a driven number is read at the playhead: blur, places and nearness', () => {
  const id = shot.settings.effects[0]!.id;
  const drive = (from: number, to: number) => ({
    kind: 'keys' as const,
    keys: [from, to].map((value, k) => ({ frame: 20 * k, value, easing: 'straight' as const })),
  });
  const driven: Shot = {
    ...shot,
    settings: {
      ...shot.settings,
      effects: [{ ...shot.settings.effects[0]!, id, drives: { focus: drive(1, 3) } }],
      drives: { 'framing.x': drive(0, 20) },
    },
  };
  const part = partOf(shot);
  useView.setState({ frame: 10 });
  const probe = probeAt(part, driven, 0.5, 0.5)!;
  const focus2 = {
    ...shot,
    settings: { ...shot.settings, effects: [{ ...shot.settings.effects[0]!, values: { ...shot.settings.effects[0]!.values, focus: 2 } }] },
  };
  expect(probe.blur).toBe(probeAt(part, focus2, 0.5, 0.5)!.blur);
  const there = plateToOutput(driven, 0.5, 0.5);
  expect(there.x).toBeCloseTo(0.6, 9);
  expect(outputToPlate(driven, there.x, there.y).x).toBeCloseTo(0.5, 9);
  useView.setState({ frame: 0 });
  expect(plateToOutput(driven, 0.5, 0.5).x).toBeCloseTo(0.5, 9);
});

describe('zoom and pan', () => {
  const view = { width: 836, height: 486 };
  const output = { width: 1600, height: 900 };
  test('a fitted picture is as large as the view allows, and lies in the middle', () => {
    const p = placementOf(view, output, null);
    expect(p.scale).toBeCloseTo(836 / 1600, 9);
    expect(p.left).toBeCloseTo(0, 9);
    expect(p.top).toBeCloseTo((486 - 836 * (9 / 16)) / 2, 9);
    expect(fitScale(view, { width: 8, height: 8 })).toBe(4);
  });
  test('zooming keeps the point under the pointer where it is', () => {
    const [x, y] = [300, 200];
    const before = placementOf(view, output, null);
    const zoom = zoomAt(view, output, null, 1.7, x, y);
    const after = placementOf(view, output, zoom);
    expect((x - after.left) / after.scale).toBeCloseTo((x - before.left) / before.scale, 6);
    expect((y - after.top) / after.scale).toBeCloseTo((y - before.top) / before.scale, 6);
    expect(after.scale / before.scale).toBeCloseTo(1.7, 9);
  });
  test('panning moves by screen px and never loses the picture', () => {
    const zoom = zoomAt(view, output, null, 4, 400, 240);
    const a = placementOf(view, output, zoom);
    const b = placementOf(view, output, panBy(view, output, zoom, 30, -20));
    expect(b.left - a.left).toBeCloseTo(30, 6);
    expect(b.top - a.top).toBeCloseTo(-20, 6);
    const far = panBy(view, output, zoom, 1e6, 1e6)!;
    expect([far.x, far.y]).toEqual([0, 0]);
  });
  test('zoom has its limits', () => {
    expect(zoomAt(view, output, null, 1e9, 0, 0)!.scale).toBe(LARGEST_ZOOM);
  });
});

describe('probe', () => {
  test('reads raw grey, nearness, distance and blur at a place', () => {
    const part = useSession.getState().preview!;
    const probe = probeAt(part, shot, 0.5, 0.5)!;
    expect(probe.raw).toBeCloseTo(80 / 159, 6);
    expect(probe.nearness).toBeCloseTo(80 / 159, 6);
    expect(probe.distance).toBeCloseTo(1 / (80 / 159 + (1 - 80 / 159) / 10), 4);
    const lens = renderLens({ plate, settings: shot.settings, size: shot.settings.framing });
    const values = valuesSchema(lensBlur.params).parse(shot.settings.effects[0]!.values);
    expect(probe.blur).toBeCloseTo(lensBlurRadius(values, lens, 1, probe.distance), 6);
    expect(probeAt(part, shot, 1, 0.5)).toBeNull();
    expect(probeAt(part, shot, -0.01, 0.5)).toBeNull();
  });
  test('tells no blur where the lens blur is off', () => {
    shot.settings.effects[0]!.on = false;
    expect(activeLensBlur(shot.settings)).toBeNull();
    expect(probeAt(useSession.getState().preview!, shot, 0.5, 0.5)!.blur).toBeNull();
  });
  test('places in the output and in the plate turn back into each other under any framing', () => {
    shot.settings.framing = { ...shot.settings.framing, turns: 1, width: 90, height: 160, scale: 1.4, x: 0.1, y: -0.05 };
    const p = outputToPlate(shot, 0.3, 0.7);
    const o = plateToOutput(shot, p.x, p.y);
    expect(o.x).toBeCloseTo(0.3, 9);
    expect(o.y).toBeCloseTo(0.7, 9);
  });
});

describe('clicks', () => {
  test('in Effects the lens focuses on what was clicked', () => {
    clickPicture(0.25, 0.5);
    const z = probeAt(useSession.getState().preview!, shot, 0.25, 0.5)!.distance;
    expect(now().settings.effects[0]!.values.focus).toBeCloseTo(z, 2);
    expect(now().settings.stakes).toHaveLength(0);
  });
  test('in Calibrate a stake is put, on the plate, with the distance the map tells', () => {
    useView.setState({ chapter: 'calibrate' });
    clickPicture(0.25, 0.5);
    const [stake] = now().settings.stakes;
    expect(stake!.x).toBeCloseTo(0.25, 9);
    expect(stake!.distance).toBeCloseTo(probeAt(useSession.getState().preview!, shot, 0.25, 0.5)!.distance, 1);
    expect(useView.getState().selectedStake).toBe(stake!.id);
  });
  test('elsewhere a click changes nothing unless something is being picked', () => {
    useView.setState({ chapter: 'output' });
    clickPicture(0.25, 0.5);
    expect(useDocument.getState().past).toHaveLength(0);
    useView.setState({ picking: usualPicking(shot, null) });
    clickPicture(0.25, 0.5);
    expect(useDocument.getState().past).toHaveLength(1);
    expect(useView.getState().picking).toBeNull();
  });
  test('a focus is brought into what may be set', () => {
    const focus = (distance: number): void => usualPicking(shot, null)!.take({ x: 0, y: 0, distance, stack: 0.5 });
    focus(Infinity);
    expect(now().settings.effects[0]!.values.focus).toBe(1e6);
    focus(0);
    expect(now().settings.effects[0]!.values.focus).toBe(0.01);
  });
});

describe('stakes', () => {
  const stakeAt = (x: number, distance: number, id = String(x)) => ({ id, x, y: 0.5, distance });
  test('know the grey under them; one outside the frame knows none', () => {
    shot.settings.stakes = [stakeAt(0.5, 2), stakeAt(1.4, 2)];
    const raws = rawAtStakes(shot, useSession.getState().preview!);
    expect(raws[0]).toBeCloseTo(80 / 159, 6);
    expect(raws[1]).toBeNull();
  });
  test('recover the ends of an exact map', () => {
    const part = useSession.getState().preview!;
    const truth = (x: number): number => probeAt(part, shot, x, 0.5)!.distance;
    shot.settings.stakes = [stakeAt(0.2, 3 * truth(0.2)), stakeAt(0.8, 3 * truth(0.8))];
    const fit = fitOf(shot, part)!;
    expect(fit.near).toBeCloseTo(3, 3);
    expect(fit.far).toBeCloseTo(30, 2);
    expect(fitInPlace(shot, part)).toBe(true);
    expect(shot.settings.calibration).toMatchObject({ scaled: true });
    expect(shot.settings.calibration.near).toBeCloseTo(3, 3);
  });
  test('that contradict the order of the map change nothing', () => {
    const part = useSession.getState().preview!;
    shot.settings.stakes = [stakeAt(0.2, 1), stakeAt(0.8, 20)];
    expect(fitInPlace(shot, part)).toBe(false);
    expect(shot.settings.calibration.near).toBe(1);
    expect(fitInPlace(shot, null)).toBe(false);
  });
});
