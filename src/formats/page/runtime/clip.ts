import type { ClipPageFacts } from '../facts';
import { fitted } from './fitted';
import { Motion } from './motion';
import { newTexture, programOf } from './program';

/** Steps by which a ray is followed from the nearest to the farthest. */
const STEPS = 24;

const VERTEX = `
attribute vec2 corner;
varying vec2 place;
void main() {
  place = corner;
  gl_Position = vec4(2.0 * corner.x - 1.0, 1.0 - 2.0 * corner.y, 0.0, 1.0);
}`;
/** Four pictures lie in each of the video: front and behind above, how near each is below. A ray hits the front, or what lies behind it where it passes under an edge. */
const FRAGMENT = `
precision highp float;
uniform sampler2D video;
uniform vec2 aside, half_px;
uniform float least, most, still, enlarged;
varying vec2 place;
vec2 within(vec2 p) { return clamp(p, half_px, 1.0 - half_px) * 0.5; }
float near(vec2 p, float right) { return texture2D(video, within(p) + vec2(right, 0.5)).g; }
void main() {
  vec2 eye = (place - 0.5) / enlarged + 0.5;
  float size = 1.0 / ${STEPS.toFixed(1)};
  vec4 colour = texture2D(video, within(eye) + vec2(0.5, 0.0));
  for (int k = 0; k <= ${STEPS}; k++) {
    float g = 1.0 - float(k) * size;
    vec2 p = eye + aside * (mix(least, most, g) - still);
    float front = near(p, 0.0);
    if (front >= g - 0.5 * size && front <= g + 1.5 * size) {
      colour = texture2D(video, within(eye + aside * (mix(least, most, front) - still)));
      break;
    }
    if (front > g) {
      float behind = near(p, 0.5);
      if (behind >= g - 0.5 * size) {
        colour = texture2D(video, within(p) + vec2(0.5, 0.0));
        break;
      }
    }
  }
  gl_FragColor = vec4(colour.rgb, 1.0);
}`;

/** Draws a video that holds a scene. Throws where it cannot. */
function drawn(box: HTMLElement, video: HTMLVideoElement): void {
  const facts = JSON.parse(document.getElementById('scene')!.textContent) as ClipPageFacts;
  const canvas = document.createElement('canvas');
  const gl = canvas.getContext('webgl', { antialias: false, alpha: false });
  if (!gl) throw new Error('no WebGL');
  const { program, uniform } = programOf(gl, VERTEX, FRAGMENT);
  gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
  gl.bufferData(gl.ARRAY_BUFFER, Float32Array.of(0, 0, 1, 0, 0, 1, 1, 1), gl.STATIC_DRAW);
  const corner = gl.getAttribLocation(program, 'corner');
  gl.enableVertexAttribArray(corner);
  gl.vertexAttribPointer(corner, 2, gl.FLOAT, false, 0, 0);
  for (const name of ['least', 'most', 'still', 'enlarged'] as const) gl.uniform1f(uniform(name), facts[name]);
  gl.uniform2f(uniform('half_px'), 1 / facts.width, 1 / facts.height);
  newTexture(gl);
  const asideAt = uniform('aside');
  const root = document.documentElement;
  const fit = fitted(box, canvas);
  let eye = { x: 0, y: 0 };
  const draw = (moving: boolean): void => {
    if (video.readyState < 2) return;
    fit(moving);
    gl.viewport(0, 0, canvas.width, canvas.height);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGB, gl.RGB, gl.UNSIGNED_BYTE, video);
    gl.uniform2f(asideAt, (facts.focal * facts.aside * eye.x) / facts.width, -(facts.focal * facts.up * eye.y) / facts.height);
    gl.drawArrays(gl.TRIANGLE_STRIP, 0, 4);
    root.dataset.eye = `${eye.x.toFixed(4)} ${eye.y.toFixed(4)}`;
    root.dataset.drawn = 'clip';
  };
  canvas.setAttribute('aria-hidden', 'true');
  canvas.addEventListener('webglcontextlost', (event) => {
    event.preventDefault();
    // the front of the video itself lies below
    canvas.remove();
    root.dataset.drawn = 'still';
    cancelAnimationFrame(asked);
  });
  box.append(canvas);
  let asked = 0;
  let changed = true;
  let moving = false;
  new Motion(box, (to, goesOn) => {
    eye = { ...to };
    changed = true;
    moving = goesOn;
  });
  const next = (): void => {
    if (changed || !video.paused) draw(moving || !video.paused);
    changed = false;
    asked = requestAnimationFrame(next);
  };
  video.addEventListener('loadeddata', () => (changed = true));
  next();
}

/** The video loops. Who wants little motion sees its first frame, and plays and stops it by a press. */
function plays(box: HTMLElement, video: HTMLVideoElement): void {
  const play = (): void => void video.play().catch(() => undefined);
  const turn = (): void => (video.paused ? play() : video.pause());
  if (!matchMedia('(prefers-reduced-motion: reduce)').matches) {
    play();
    return;
  }
  box.addEventListener('click', turn);
  box.addEventListener('keydown', (event) => {
    if (event.key !== 'Enter' && event.key !== ' ') return;
    event.preventDefault();
    turn();
  });
}

const box = document.getElementById('box')!;
const video = document.getElementById('video') as HTMLVideoElement;
plays(box, video);
try {
  drawn(box, video);
} catch {
  // the front of the video is seen, and plays
  document.documentElement.dataset.drawn = 'still';
}
