import { clipRuntime } from './build/clipRuntime';
import { base64, documentOf } from './document';
import type { PageOfClip } from './facts';

/** A clip whose frames are scenes as a page of its own in one file: it loops, and moves with the pointer, the finger or keys. It asks nothing of any place. */
export const encodeClipPage = (video: Uint8Array, type: string, { name, words, facts }: PageOfClip): Uint8Array =>
  documentOf({
    name,
    words,
    size: facts,
    round: '#1a1a19',
    // of the four pictures in it the front alone is seen where nothing draws
    style: `canvas{position:absolute;inset:0;width:100%;height:100%;display:block}
video{position:absolute;left:0;top:0;width:200%;height:200%;object-fit:fill}`,
    inside: `<video id="video" muted loop playsinline preload="auto" src="data:${type};base64,${base64(video)}"></video>`,
    facts,
    script: clipRuntime,
  });
