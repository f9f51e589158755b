import type { PageOfClip } from './facts';
import { clipRuntime } from './build/clipRuntime';
import { escaped } from './embedding';
import { base64 } from './page';

/** A clip whose frames are scenes as a page of its own in one file: it loops, and moves with the pointer, the finger or keys. It asks nothing of any place. */
export function encodeClipPage(video: Uint8Array, type: string, { name, words, facts }: PageOfClip): Uint8Array {
  const { width, height } = facts;
  const html = `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width,initial-scale=1">
<meta name="generator" content="Ombrage">
<title>${escaped(name)}</title>
<style>
html,body{margin:0;height:100%;background:#1a1a19;overflow:hidden}
main{height:100%;display:grid;place-items:center}
#box{position:relative;aspect-ratio:${width}/${height};width:min(100vw,100vh*${(width / height).toFixed(6)});touch-action:pan-y;outline-offset:-3px;overflow:hidden}
canvas{position:absolute;inset:0;width:100%;height:100%;display:block}
video{position:absolute;left:0;top:0;width:200%;height:200%;object-fit:fill}
</style>
</head>
<body>
<main>
<div id="box" role="img" tabindex="0" aria-label="${escaped(words.trim() || name)}">
<video id="video" muted loop playsinline preload="auto" src="data:${type};base64,${base64(video)}"></video>
</div>
</main>
<script type="application/json" id="scene">${JSON.stringify(facts).replaceAll('<', '\\u003c')}</script>
<script>${clipRuntime}</script>
</body>
</html>
`;
  return new TextEncoder().encode(html);
}
