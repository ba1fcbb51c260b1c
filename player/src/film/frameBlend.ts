const VERTEX = `#version 300 es
out vec2 at;
void main() {
  at = vec2(gl_VertexID & 1, gl_VertexID >> 1) * 2.0;
  gl_Position = vec4(at * 2.0 - 1.0, 0.0, 1.0);
}`;

/** Adds a picture's share in linear light; transparent parts have premultiplied colours. */
const ADD = `#version 300 es
precision highp float;
uniform sampler2D picture;
uniform float share;
in vec2 at;
out vec4 sum;
vec3 toLinear(vec3 c) {
  return mix(c / 12.92, pow((c + 0.055) / 1.055, vec3(2.4)), step(0.04045, c));
}
void main() {
  vec4 c = texture(picture, vec2(at.x, 1.0 - at.y));
  vec3 straight = c.a > 0.0 ? c.rgb / c.a : vec3(0.0);
  sum = vec4(toLinear(straight) * c.a, c.a) * share;
}`;

const SHOW = `#version 300 es
precision highp float;
uniform sampler2D picture;
in vec2 at;
out vec4 shown;
vec3 toSrgb(vec3 c) {
  return mix(c * 12.92, 1.055 * pow(c, vec3(1.0 / 2.4)) - 0.055, step(0.0031308, c));
}
void main() {
  vec4 c = texture(picture, at);
  vec3 straight = c.a > 0.0 ? c.rgb / c.a : vec3(0.0);
  shown = vec4(toSrgb(clamp(straight, 0.0, 1.0)) * c.a, c.a);
}`;

/** The mean of several pictures in linear light, as a camera's shutter takes it. */
export class FrameBlend {
  readonly canvas: HTMLCanvasElement;
  private readonly gl: WebGL2RenderingContext;
  private readonly adding: WebGLProgram;
  private readonly showing: WebGLProgram;
  private readonly picture: WebGLTexture;
  private readonly sum: WebGLTexture;
  private readonly target: WebGLFramebuffer;
  private readonly share: WebGLUniformLocation | null;

  /** @throws Error where the browser cannot sum pictures up exactly */
  constructor(width: number, height: number) {
    this.canvas = document.createElement("canvas");
    this.canvas.width = width;
    this.canvas.height = height;
    const gl = this.canvas.getContext("webgl2", { alpha: true, antialias: false });
    if (!gl?.getExtension("EXT_color_buffer_float") || !gl.getExtension("EXT_float_blend"))
      throw new Error("Blurring motion needs sums of pictures in full precision, which this browser lacks.");
    this.gl = gl;
    this.adding = link(gl, ADD);
    this.showing = link(gl, SHOW);
    this.share = gl.getUniformLocation(this.adding, "share");
    this.picture = texture(gl);
    this.sum = texture(gl);
    gl.texStorage2D(gl.TEXTURE_2D, 1, gl.RGBA32F, width, height);
    this.target = gl.createFramebuffer()!;
    gl.bindFramebuffer(gl.FRAMEBUFFER, this.target);
    gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, this.sum, 0);
    gl.viewport(0, 0, width, height);
    gl.pixelStorei(gl.UNPACK_PREMULTIPLY_ALPHA_WEBGL, true);
  }

  /** Forgets the pictures so far. */
  begin(): void {
    const { gl } = this;
    gl.bindFramebuffer(gl.FRAMEBUFFER, this.target);
    gl.clearColor(0, 0, 0, 0);
    gl.clear(gl.COLOR_BUFFER_BIT);
  }

  add(picture: HTMLCanvasElement, share: number): void {
    const { gl } = this;
    gl.bindFramebuffer(gl.FRAMEBUFFER, this.target);
    gl.useProgram(this.adding);
    gl.bindTexture(gl.TEXTURE_2D, this.picture);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA, gl.RGBA, gl.UNSIGNED_BYTE, picture);
    gl.uniform1f(this.share, share);
    gl.enable(gl.BLEND);
    gl.blendFunc(gl.ONE, gl.ONE);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
  }

  /** Shows the mean on the canvas. */
  finish(): void {
    const { gl } = this;
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    gl.disable(gl.BLEND);
    gl.useProgram(this.showing);
    gl.bindTexture(gl.TEXTURE_2D, this.sum);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
  }

  dispose(): void {
    this.gl.getExtension("WEBGL_lose_context")?.loseContext();
  }
}

function texture(gl: WebGL2RenderingContext): WebGLTexture {
  const made = gl.createTexture()!;
  gl.bindTexture(gl.TEXTURE_2D, made);
  for (const side of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T])
    gl.texParameteri(gl.TEXTURE_2D, side, gl.CLAMP_TO_EDGE);
  for (const filter of [gl.TEXTURE_MIN_FILTER, gl.TEXTURE_MAG_FILTER])
    gl.texParameteri(gl.TEXTURE_2D, filter, gl.NEAREST);
  return made;
}

function link(gl: WebGL2RenderingContext, fragment: string): WebGLProgram {
  const program = gl.createProgram()!;
  for (const [kind, source] of [
    [gl.VERTEX_SHADER, VERTEX],
    [gl.FRAGMENT_SHADER, fragment],
  ] as const) {
    const shader = gl.createShader(kind)!;
    gl.shaderSource(shader, source);
    gl.compileShader(shader);
    gl.attachShader(program, shader);
  }
  gl.linkProgram(program);
  if (!gl.getProgramParameter(program, gl.LINK_STATUS))
    throw new Error(gl.getProgramInfoLog(program) ?? "A shader of the film cannot be used.");
  return program;
}
