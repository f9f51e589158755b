import { escaped } from './embedding';

const BASE64_AT_ONCE = 0x8000;

/** Bytes as text of a data address. */
export function base64(bytes: Uint8Array): string {
  let text = '';
  for (let i = 0; i < bytes.length; i += BASE64_AT_ONCE) text += String.fromCharCode(...bytes.subarray(i, i + BASE64_AT_ONCE));
  return btoa(text);
}

interface PageDocument {
  readonly name: string;
  /** what it says to who does not see it; its name where empty */
  readonly words: string;
  /** px, for its shape */
  readonly size: { readonly width: number; readonly height: number };
  /** what is seen round it, #rrggbb */
  readonly round: string;
  readonly style: string;
  /** within what is moved, and beside it */
  readonly inside: string;
  readonly beside?: string;
  /** what the script reads */
  readonly facts: object;
  readonly script: string;
}

/** A page in one file, of any shape of window; all text that was given is escaped. */
export function documentOf({ name, words, size, round, style, inside, beside = '', facts, script }: PageDocument): Uint8Array {
  return new TextEncoder().encode(`<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width,initial-scale=1">
<meta name="generator" content="Ombrage">
<title>${escaped(name)}</title>
<style>
html,body{margin:0;height:100%;background:${round};overflow:hidden}
main{height:100%;display:grid;place-items:center}
#box{position:relative;aspect-ratio:${size.width}/${size.height};width:min(100vw,100vh*${(size.width / size.height).toFixed(6)});touch-action:pan-y;outline-offset:-3px;overflow:hidden}
[hidden]{display:none!important}
${style}
</style>
</head>
<body>
<main>
<div id="box" role="img" tabindex="0" aria-label="${escaped(words.trim() || name)}">
${inside}
</div>
${beside}
</main>
<script type="application/json" id="scene">${JSON.stringify(facts).replaceAll('<', '\\u003c')}</script>
<script>${script}</script>
</body>
</html>
`);
}
