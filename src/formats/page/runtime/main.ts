import type { PageFacts } from '../facts';
import { drawByGl, type Draw } from './gl';
import { fitted } from './fitted';
import { Motion } from './motion';
import { drawSoftly } from './soft';
import { readSurfaces } from './surfaces';

/** A browser that asks before a page may know how it is held. */
type Asks = typeof DeviceOrientationEvent & { requestPermission?: () => Promise<string> };

async function begin(): Promise<void> {
  const facts = JSON.parse(document.getElementById('scene')!.textContent) as PageFacts;
  const box = document.getElementById('box')!;
  const surfaces = await readSurfaces(facts);
  let canvas = document.createElement('canvas');
  let draw: Draw | null = null;
  try {
    draw = drawByGl(canvas, facts, surfaces);
  } catch {
    // as where there is no processor
  }
  const how = draw ? 'webgl' : 'canvas';
  if (!draw) {
    canvas = document.createElement('canvas');
    draw = drawSoftly(canvas, facts, surfaces);
  }
  if (!draw) return;
  const paint = draw;
  const fit = fitted(box, canvas);
  canvas.setAttribute('aria-hidden', 'true');
  const root = document.documentElement;
  const motion = new Motion(box, ({ x, y }, moving) => {
    fit(moving);
    paint(facts.aside * x, facts.up * y);
    root.dataset.eye = `${x.toFixed(4)} ${y.toFixed(4)}`;
  });
  const front = document.getElementById('front')!;
  // holes show the picture below, but not what is seen through
  if (!facts.opaque) front.style.visibility = 'hidden';
  canvas.addEventListener('webglcontextlost', (event) => {
    event.preventDefault();
    front.style.visibility = '';
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
