import { pacing } from './pace';

/** px of a canvas along its longer side at the most. */
const MOST_PX = 2048;

/** Gives a canvas as many pixels as there is time for while something moves, and all of its box when it rests. */
export function fitted(box: HTMLElement, canvas: HTMLCanvasElement): (moving: boolean) => void {
  const pace = pacing({ slow: 26, quick: 17.5, least: 0.35 });
  return (moving) => {
    const { clientWidth, clientHeight } = box;
    const ratio = pace(moving, performance.now()) * Math.min(devicePixelRatio || 1, MOST_PX / Math.max(1, clientWidth, clientHeight));
    const [width, height] = [Math.max(1, Math.round(clientWidth * ratio)), Math.max(1, Math.round(clientHeight * ratio))];
    if (canvas.width === width && canvas.height === height) return;
    canvas.width = width;
    canvas.height = height;
  };
}
