import { create } from 'zustand';
import type { PathFigures } from '../../core/path/judged';
import type { Relief } from '../../core/camera/relief';
import type { ChapterThumbs, Given, PreviewPart } from '../../engine/messages/protocol';
import type { SaveState } from '../../store/autosave';

export interface Progress {
  readonly what: string;
  readonly share: number;
  /** seconds, null while unknown */
  readonly left: number | null;
  cancel(): void;
}

interface SessionState {
  /** true once the shot's plate is being decoded: its panels can be shown */
  ready: boolean;
  problem: { text: string; hint: string } | null;
  preview: PreviewPart | null;
  /** what is shown is not yet what was asked for last */
  settling: boolean;
  /** the shot's picture on the shelf, shown until there is a preview */
  lastPicture: ImageBitmap | null;
  /** those that are there */
  thumbs: Partial<ChapterThumbs>;
  /** what there is of what the shot needs: the key of a need to the key under which the workers hold something for it */
  given: Given;
  /** needs that nothing is on its way for, and why */
  without: Readonly<Record<string, 'stopped' | 'missing'>>;
  /** what of the depth decides how far the camera may move; null while it is not known */
  relief: Relief | null;
  /** how the camera's path is judged by that; null while it is not known, or there is none */
  path: PathFigures | null;
  estimating: Progress | null;
  /** depth of a clip that is being found for all its frames */
  clipDepthJob: Progress | null;
  /** grows whenever maps of a clip's frames have changed */
  depthStamp: number;
  exporting: Progress | null;
  /** what was exported last of this shot, to be looked at again */
  made: Made | null;
  save: SaveState | null;
  set(change: Partial<Omit<SessionState, 'set'>>): void;
}

/** What was exported last. */
export interface Made {
  readonly name: string;
  readonly blob: Blob;
  /** figures of what was made */
  readonly told?: string | null;
  readonly width: number;
  readonly height: number;
  /** of a clip: how many, and how many a second */
  readonly frames?: { readonly count: number; readonly fps: number };
}

/** The state before a shot is open. */
export const nothingOpen = {
  ready: false,
  problem: null,
  preview: null,
  settling: true,
  lastPicture: null,
  thumbs: {},
  given: {},
  without: {},
  relief: null,
  path: null,
  estimating: null,
  clipDepthJob: null,
  depthStamp: 0,
  exporting: null,
  made: null,
  save: null,
};

/** What is going on with the open shot besides its document. */
export const useSession = create<SessionState>()((set) => ({
  ...nothingOpen,
  set: (change) => set(change),
}));

/** Reports progress with the time left, from the share done, until it is ended: reports that arrive late are dropped. */
export function progressOf(what: string, cancel: () => void, show: (p: Progress | null) => void): { report(share: number): void; end(): void } {
  const started = performance.now();
  let over = false;
  show({ what, share: 0, left: null, cancel });
  return {
    report: (share) => {
      if (over) return;
      const seconds = (performance.now() - started) / 1000;
      show({ what, share, left: share > 0.05 ? (seconds * (1 - share)) / share : null, cancel });
    },
    end: () => {
      over = true;
      show(null);
    },
  };
}
