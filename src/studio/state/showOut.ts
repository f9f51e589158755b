import { isHello, type ShowMessage } from './showMessages';

/** A window that shows the picture alone. */
interface Window {
  readonly port: MessagePort;
  readonly source: MessageEventSource | null;
  /** what was sent last has not been drawn yet */
  busy: boolean;
  /** a newer picture came meanwhile */
  behind: boolean;
}

const windows = new Set<Window>();
let newest: ImageBitmap | null = null;
let again: () => ImageBitmap | null = () => null;

/** Whether anybody looks. */
export const isShown = (): boolean => windows.size > 0;

/** Listens for windows that show the picture alone; `now` answers what is seen at the moment. What it answers ends that. */
export function listenForShows(now: () => ImageBitmap | null): () => void {
  again = now;
  const hear = (event: MessageEvent): void => {
    const [port] = event.ports;
    if (event.origin !== location.origin || !isHello(event.data) || !port) return;
    // a window that greets again has closed its port of before
    for (const old of windows)
      if (old.source === event.source) {
        old.port.close();
        windows.delete(old);
      }
    const shown: Window = { port, source: event.source, busy: false, behind: false };
    windows.add(shown);
    port.onmessage = ({ data }: MessageEvent<ShowMessage>) => {
      if (data.is === 'bye') {
        windows.delete(shown);
        return;
      }
      shown.busy = false;
      if (shown.behind) send(shown);
    };
    send(shown);
  };
  addEventListener('message', hear);
  return () => {
    removeEventListener('message', hear);
    for (const { port } of windows) port.close();
    windows.clear();
    newest = null;
    again = () => null;
  };
}

/** Shows a picture in every window that wants one; one that is still drawing gets the newest when it is done. */
export function showOut(picture: ImageBitmap | null | undefined): void {
  // one that is kept may be shown again and again
  if (!picture || windows.size === 0 || picture === newest) return;
  newest = picture;
  for (const shown of windows) send(shown);
}

function send(shown: Window): void {
  if (shown.busy) {
    shown.behind = true;
    return;
  }
  const picture = newest && newest.width > 0 ? newest : again();
  if (!picture || picture.width === 0) return;
  shown.busy = true;
  shown.behind = false;
  createImageBitmap(picture)
    .then((copy) => shown.port.postMessage({ is: 'picture', picture: copy } satisfies ShowMessage, [copy]))
    .catch(() => {
      // it was let go of meanwhile: the next one comes
      shown.busy = false;
    });
}
