/** px of a canvas along its longer side at the most. */
const MOST_PX = 2048;
/** Frames that take longer are slow, shorter ones leave time, ms. */
const SLOW_MS = 26;
const QUICK_MS = 17.5;
const LEAST_SHARE = 0.35;

/** Gives a canvas as many pixels as there is time for while something moves, and all of its box when it rests. */
export function fitted(box: HTMLElement, canvas: HTMLCanvasElement): (moving: boolean) => void {
  let share = 1;
  let last = 0;
  return (moving) => {
    const took = performance.now() - last;
    last += took;
    if (moving && took < 400) {
      if (took > SLOW_MS) share = Math.max(LEAST_SHARE, share * 0.8);
      else if (took < QUICK_MS) share = Math.min(1, share * 1.02);
    }
    const { clientWidth, clientHeight } = box;
    const ratio = (moving ? share : 1) * Math.min(devicePixelRatio || 1, MOST_PX / Math.max(1, clientWidth, clientHeight));
    const [width, height] = [Math.max(1, Math.round(clientWidth * ratio)), Math.max(1, Math.round(clientHeight * ratio))];
    if (canvas.width === width && canvas.height === height) return;
    canvas.width = width;
    canvas.height = height;
  };
}
