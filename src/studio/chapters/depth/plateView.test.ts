import { beforeEach, describe, expect, test } from '@jest/globals';
import { newShot } from '../../../core/document/defaults';
import { arrowStep } from '../../controls/arrowStep';
import { plateViewOf, startDrag } from './plateView';

const plate = { sha256: 'd'.repeat(64), name: 'p.png', width: 1200, height: 800, bits: 8, hfovFromFile: 60 };
const box = () => ({ left: 40, top: 30 }) as DOMRect;

describe('where the plate lies in the view', () => {
  test.each([0, 1, 2, 3] as const)('places go to the view and back, turned by %i quarters', (turns) => {
    const shot = newShot(plate);
    Object.assign(shot.settings.framing, { width: 900, height: 700, turns, mode: 'fill', scale: 1.3, x: 0.05, y: -0.1 });
    const view = plateViewOf(shot, { scale: 0.5, left: 20, top: 10 }, { width: 600, height: 400 }, box);
    for (const [x, y] of [
      [0, 0],
      [0.3, 0.8],
      [1.2, -0.4],
    ] as const) {
      const there = view.toView(x, y);
      const back = view.toPlate(there.x, there.y);
      expect(back.x).toBeCloseTo(x, 9);
      expect(back.y).toBeCloseTo(y, 9);
      // a pointer is told in px of the window
      const pointed = view.pointer({ clientX: there.x + 40, clientY: there.y + 30 });
      expect(pointed.x).toBeCloseTo(x, 9);
      expect(pointed.y).toBeCloseTo(y, 9);
    }
    // one px of the plate is as long in the view as the view says
    const [a, b] = [view.toView(0.5, 0.5), view.toView(0.5 + 1 / 1200, 0.5)];
    expect(Math.hypot(a.x - b.x, a.y - b.y)).toBeCloseTo(view.scale, 9);
  });
});

/** A window of which a drag sees only its listeners and frames. */
const listeners = new Map<string, (e: unknown) => void>();
const frames: (() => void)[] = [];
let cancelled = 0;
Object.assign(globalThis, {
  window: {
    addEventListener: (name: string, run: (e: unknown) => void) => listeners.set(name, run),
    removeEventListener: (name: string) => listeners.delete(name),
  },
  requestAnimationFrame: (run: () => void) => frames.push(run),
  cancelAnimationFrame: () => cancelled++,
});
const at = (clientX: number, clientY: number, pointerId = 1) => ({ clientX, clientY, pointerId });
const begin = () => {
  const moves: number[] = [];
  const ends: boolean[] = [];
  startDrag(
    { ...at(100, 100), stopPropagation: () => undefined } as unknown as React.PointerEvent,
    (e) => moves.push(e.clientX),
    (moved) => ends.push(moved),
  );
  return { moves, ends };
};

describe('a drag', () => {
  beforeEach(() => {
    listeners.clear();
    frames.length = 0;
    cancelled = 0;
  });

  test('moves at most once a frame, to where the pointer is by then', () => {
    const { moves, ends } = begin();
    for (const x of [110, 120, 130]) listeners.get('pointermove')!(at(x, 100));
    expect(frames).toHaveLength(1);
    frames[0]!();
    listeners.get('pointermove')!(at(140, 100));
    expect(moves).toEqual([130]);
    listeners.get('pointerup')!(at(140, 100));
    // what was waiting for its frame is not lost
    expect(moves).toEqual([130, 140]);
    expect([ends, cancelled, listeners.size]).toEqual([[true], 1, 0]);
  });

  test('that hardly moves is a click', () => {
    const { moves, ends } = begin();
    listeners.get('pointermove')!(at(101, 101));
    listeners.get('pointerup')!(at(101, 101));
    expect(moves).toEqual([]);
    expect(ends).toEqual([false]);
  });

  test('belongs to one pointer, and ends when that is taken away', () => {
    const { moves, ends } = begin();
    listeners.get('pointermove')!(at(300, 100, 2));
    listeners.get('pointerup')!(at(300, 100, 2));
    expect([moves, ends]).toEqual([[], []]);
    listeners.get('pointercancel')!(at(100, 100));
    expect(ends).toEqual([false]);
    expect(listeners.size).toBe(0);
  });
});

test('arrow keys are steps to their side, other keys none', () => {
  expect(['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown', 'a'].map(arrowStep)).toEqual([[-1, 0], [1, 0], [0, -1], [0, 1], null]);
});
