import type { PageFacts } from '../facts';
import { hasProcessor } from './hasProcessor';
import { newTexture, programOf } from './program';
import type { Surface } from './surfaces';

const VERTEX = `
attribute vec3 corner;
uniform vec2 size, aside;
uniform float most, still, enlarged;
varying vec2 place;
void main() {
  place = corner.xy;
  vec2 p = (corner.xy - 0.5) * size - aside * (corner.z * most - still);
  gl_Position = vec4(2.0 * enlarged * p.x / size.x, -2.0 * enlarged * p.y / size.y, 1.0 - 1.9 * corner.z - 0.05, 1.0);
}`;
const FRAGMENT = `
precision mediump float;
uniform sampler2D picture;
varying vec2 place;
void main() {
  gl_FragColor = texture2D(picture, place);
}`;

export type Draw = (aside: number, up: number) => void;

/** Draws by the graphics processor; null where there is none. */
export function drawByGl(canvas: HTMLCanvasElement, facts: PageFacts, surfaces: readonly Surface[]): Draw | null {
  const gl = canvas.getContext('webgl', { antialias: hasProcessor(), alpha: true, premultipliedAlpha: true });
  // numbers of corners beyond 65 535
  if (!gl?.getExtension('OES_element_index_uint')) return null;
  const { program, uniform } = programOf(gl, VERTEX, FRAGMENT);
  const corner = gl.getAttribLocation(program, 'corner');
  gl.enableVertexAttribArray(corner);
  gl.uniform2f(uniform('size'), facts.width, facts.height);
  gl.uniform1f(uniform('most'), facts.most);
  gl.uniform1f(uniform('still'), facts.still);
  gl.uniform1f(uniform('enlarged'), facts.enlarged);
  gl.pixelStorei(gl.UNPACK_PREMULTIPLY_ALPHA_WEBGL, true);
  const largest = gl.getParameter(gl.MAX_TEXTURE_SIZE) as number;
  const drawn = surfaces.map(({ corners, triangles, picture }) => {
    const places = gl.createBuffer();
    gl.bindBuffer(gl.ARRAY_BUFFER, places);
    gl.bufferData(gl.ARRAY_BUFFER, corners, gl.STATIC_DRAW);
    const ends = gl.createBuffer();
    gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, ends);
    gl.bufferData(gl.ELEMENT_ARRAY_BUFFER, triangles, gl.STATIC_DRAW);
    const texture = newTexture(gl);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA, gl.RGBA, gl.UNSIGNED_BYTE, smaller(picture, largest));
    return { places, ends, texture, count: triangles.length };
  });
  gl.enable(gl.DEPTH_TEST);
  const asideAt = uniform('aside');
  return (aside, up) => {
    gl.viewport(0, 0, canvas.width, canvas.height);
    gl.clearColor(0, 0, 0, 0);
    gl.clear(gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT);
    gl.uniform2f(asideAt, facts.focal * aside, -facts.focal * up);
    // what hides is drawn first
    for (const { places, ends, texture, count } of drawn) {
      gl.bindBuffer(gl.ARRAY_BUFFER, places);
      gl.vertexAttribPointer(corner, 3, gl.UNSIGNED_SHORT, true, 8, 0);
      gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, ends);
      gl.bindTexture(gl.TEXTURE_2D, texture);
      gl.drawElements(gl.TRIANGLES, count, gl.UNSIGNED_INT, 0);
    }
  };
}

/** A picture no larger than a processor takes. */
function smaller(picture: HTMLImageElement, largest: number): TexImageSource {
  const { naturalWidth: w, naturalHeight: h } = picture;
  if (Math.max(w, h) <= largest) return picture;
  const canvas = document.createElement('canvas');
  const k = largest / Math.max(w, h);
  canvas.width = Math.floor(w * k);
  canvas.height = Math.floor(h * k);
  canvas.getContext('2d')!.drawImage(picture, 0, 0, canvas.width, canvas.height);
  return canvas;
}
