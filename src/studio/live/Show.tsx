import { useEffect, useRef, useState } from 'react';
import { hello, type ShowMessage } from '../state/showMessages';

/** Every how often it looks whether the workspace is still there, ms; one that was silent for so long may be another now. */
const LOOK_MS = 1500;
const SILENT_MS = 3000;
/** The pointer is hidden when it has rested for so long, ms. */
const REST_MS = 2000;

/** The picture alone, over all of the window: it holds the last one, and finds the workspace again where that is opened anew. A click fills the display. */
export function Show() {
  const ref = useRef<HTMLCanvasElement>(null);
  const [seen, setSeen] = useState(false);
  const [rests, setRests] = useState(false);
  useEffect(() => connect(ref.current!, () => setSeen(true)), []);
  useEffect(() => stayAwake(), []);
  useEffect(() => {
    let timer = setTimeout(() => setRests(true), REST_MS);
    const move = (): void => {
      setRests(false);
      clearTimeout(timer);
      timer = setTimeout(() => setRests(true), REST_MS);
    };
    addEventListener('pointermove', move);
    return () => {
      removeEventListener('pointermove', move);
      clearTimeout(timer);
    };
  }, []);
  const fill = (): void =>
    void (document.fullscreenElement ? document.exitFullscreen() : document.documentElement.requestFullscreen()).catch(() => undefined);
  return (
    <main
      style={{ position: 'fixed', inset: 0, background: '#000', cursor: rests ? 'none' : 'default', display: 'grid', placeItems: 'center' }}
      onClick={fill}
    >
      <h1 style={{ position: 'absolute', width: 1, height: 1, overflow: 'hidden', clipPath: 'inset(50%)', margin: 0 }}>On show</h1>
      <canvas
        ref={ref}
        role="img"
        aria-label="The picture"
        data-testid="show"
        style={{ width: '100vw', height: '100vh', objectFit: 'contain', visibility: seen ? 'visible' : 'hidden' }}
      />
      {!seen && (
        <p style={{ position: 'absolute', color: '#a39f95', font: '15px sans-serif' }}>
          The picture comes from the window that opened this one. A click fills the display.
        </p>
      )}
    </main>
  );
}

/** Draws what the workspace sends, and says hello until it does. */
function connect(canvas: HTMLCanvasElement, drawn: () => void): () => void {
  let port: MessagePort | null = null;
  let heard = -Infinity;
  const greet = (): void => {
    const opener = window.opener as Window | null;
    if (!opener || opener.closed) return;
    port?.close();
    const { port1, port2 } = new MessageChannel();
    port = port1;
    port.onmessage = ({ data }: MessageEvent<ShowMessage>) => {
      if (data.is !== 'picture') return;
      heard = performance.now();
      draw(canvas, data.picture);
      port1.postMessage({ is: 'drawn' } satisfies ShowMessage);
      drawn();
    };
    opener.postMessage(hello, location.origin, [port2]);
  };
  greet();
  // a picture that does not change is sent once: silence alone says little, and a greeting costs one picture
  const timer = setInterval(() => {
    if (performance.now() - heard > SILENT_MS) greet();
  }, LOOK_MS);
  const bye = (): void => port?.postMessage({ is: 'bye' } satisfies ShowMessage);
  addEventListener('pagehide', bye);
  return () => {
    clearInterval(timer);
    removeEventListener('pagehide', bye);
    bye();
    port?.close();
  };
}

function draw(canvas: HTMLCanvasElement, picture: ImageBitmap): void {
  const { width, height } = picture;
  if (canvas.width !== width || canvas.height !== height) Object.assign(canvas, { width, height });
  canvas.getContext('2d', { alpha: false })!.drawImage(picture, 0, 0);
  picture.close();
}

/** Keeps the display on where the browser allows it, for as long as the window is seen. */
function stayAwake(): () => void {
  let lock: WakeLockSentinel | null = null;
  const ask = (): void => {
    const { wakeLock } = navigator as { wakeLock?: WakeLock };
    if (!wakeLock || document.visibilityState !== 'visible') return;
    wakeLock
      .request('screen')
      .then((got) => (lock = got))
      .catch(() => undefined);
  };
  ask();
  document.addEventListener('visibilitychange', ask);
  return () => {
    document.removeEventListener('visibilitychange', ask);
    void lock?.release();
  };
}
