/** A program of two shaders, in use. Throws where it cannot be made. */
export function programOf(
  gl: WebGLRenderingContext,
  vertex: string,
  fragment: string,
): { program: WebGLProgram; uniform(name: string): WebGLUniformLocation | null } {
  const program = gl.createProgram();
  for (const [type, text] of [
    [gl.VERTEX_SHADER, vertex],
    [gl.FRAGMENT_SHADER, fragment],
  ] as const) {
    const shader = gl.createShader(type)!;
    gl.shaderSource(shader, text);
    gl.compileShader(shader);
    gl.attachShader(program, shader);
  }
  gl.linkProgram(program);
  if (!gl.getProgramParameter(program, gl.LINK_STATUS)) throw new Error(gl.getProgramInfoLog(program) ?? 'no program');
  gl.useProgram(program);
  return { program, uniform: (name) => gl.getUniformLocation(program, name) };
}

/** A texture that is looked up between its pixels and ends at its border. */
export function newTexture(gl: WebGLRenderingContext): WebGLTexture {
  const texture = gl.createTexture();
  gl.bindTexture(gl.TEXTURE_2D, texture);
  for (const side of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T]) gl.texParameteri(gl.TEXTURE_2D, side, gl.CLAMP_TO_EDGE);
  for (const filter of [gl.TEXTURE_MIN_FILTER, gl.TEXTURE_MAG_FILTER]) gl.texParameteri(gl.TEXTURE_2D, filter, gl.LINEAR);
  return texture;
}
