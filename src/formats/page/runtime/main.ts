import type { PageFacts } from '../facts';
import { drawByGl } from './gl';
import { Motion } from './motion';
import { drawSoftly } from './soft';
import { readSurfaces } from './surfaces';

/** px of a canvas along its longer side at the most. */
const MOST_PX = 2048;
/** Frames that take longer are slow, shorter ones leave time, ms. */
const SLOW_MS = 26;
const QUICK_MS = 17.5;
const LEAST_SHARE = 0.35;

/** A browser that asks before a page may know how it is held. */
type Asks = typeof DeviceOrientationEvent & { requestPermission?: () => Promise<string> };

async function begin(): Promise<void> {
  const facts = JSON.parse(document.getElementById('scene')!.textContent) as PageFacts;
  const box = document.getElementById('box')!;
  const surfaces = await readSurfaces(facts);
  let canvas = document.createElement('canvas');
  let draw = drawByGl(canvas, facts, surfaces);
  const how = draw ? 'webgl' : 'canvas';
  if (!draw) {
    canvas = document.createElement('canvas');
    draw = drawSoftly(canvas, facts, surfaces);
  }
  if (!draw) return;
  const paint = draw;
  let share = 1;
  let last = 0;
  /** As many pixels as there is time for while it moves, all of them when it rests. */
  const fit = (moving: boolean): void => {
    const { clientWidth, clientHeight } = box;
    const ratio = (moving ? share : 1) * Math.min(devicePixelRatio || 1, MOST_PX / Math.max(1, clientWidth, clientHeight));
    const [width, height] = [Math.max(1, Math.round(clientWidth * ratio)), Math.max(1, Math.round(clientHeight * ratio))];
    if (canvas.width === width && canvas.height === height) return;
    canvas.width = width;
    canvas.height = height;
  };
  const pace = (moving: boolean): void => {
    const took = performance.now() - last;
    last += took;
    if (moving && took < 400) {
      if (took > SLOW_MS) share = Math.max(LEAST_SHARE, share * 0.8);
      else if (took < QUICK_MS) share = Math.min(1, share * 1.02);
    }
    fit(moving);
  };
  canvas.setAttribute('aria-hidden', 'true');
  const root = document.documentElement;
  const motion = new Motion(box, ({ x, y }, moving) => {
    pace(moving);
    paint(facts.aside * x, facts.up * y);
    root.dataset.eye = `${x.toFixed(4)} ${y.toFixed(4)}`;
  });
  canvas.addEventListener('webglcontextlost', (event) => {
    event.preventDefault();
    // the picture itself lies below
    canvas.remove();
    root.dataset.drawn = 'still';
  });
  box.append(canvas);
  root.dataset.drawn = how;
  new ResizeObserver(() => motion.wake()).observe(box);
  tilt(motion);
}

/** A phone's tilt is followed; where the browser wants to be asked first, a button asks. */
function tilt(motion: Motion): void {
  if (typeof DeviceOrientationEvent === 'undefined' || !matchMedia('(pointer: coarse)').matches) return;
  const { requestPermission } = DeviceOrientationEvent as Asks;
  if (!requestPermission) {
    motion.followTilt();
    return;
  }
  const button = document.getElementById('tilt') as HTMLButtonElement;
  button.hidden = false;
  button.onclick = () => {
    requestPermission.call(DeviceOrientationEvent).then(
      (answer) => {
        if (answer === 'granted') motion.followTilt();
        button.hidden = true;
      },
      () => (button.hidden = true),
    );
  };
}

// where anything is missing the picture stands as it is
begin().catch(() => (document.documentElement.dataset.drawn = 'still'));
