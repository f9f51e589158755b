let known: boolean | null = null;

/** Whether a graphics processor draws, and not the main one in its stead: then smooth edges cost too much. */
export function hasProcessor(): boolean {
  if (known !== null) return known;
  const gl = document.createElement('canvas').getContext('webgl');
  const info = gl?.getExtension('WEBGL_debug_renderer_info');
  const name = gl && info ? String(gl.getParameter(info.UNMASKED_RENDERER_WEBGL)) : '';
  gl?.getExtension('WEBGL_lose_context')?.loseContext();
  known = !/swiftshader|llvmpipe|software|basic render/i.test(name);
  return known;
}
