import { wideScreen } from "./wideScreen";
import type { Mesh } from "../../session/mesh";
import type { Size, View } from "../view/view";

const VERTEX = `#version 300 es
in vec3 corrected;
in vec2 texel;
uniform vec4 view;
out vec2 at;
void main() {
  at = texel;
  gl_Position = vec4(corrected.xy * view.xy + corrected.z * view.zw, 0.0, corrected.z);
}`;

const FRAGMENT = `#version 300 es
precision mediump float;
in vec2 at;
uniform sampler2D photo;
out vec4 colour;
void main() { colour = vec4(texture(photo, at).rgb, 1.0); }`;

/** What a context is asked for; drawings are kept only where somebody reads them back, as tests do. */
const WANTED: WebGLContextAttributes = {
  alpha: true,
  antialias: false,
  preserveDrawingBuffer: "sequorReadsPictures" in window,
};

/** Draws one texture through a mesh; nothing else is known here of how the mesh came to be. */
export class Renderer {
  private readonly gl: WebGL2RenderingContext;
  private program: WebGLProgram | null = null;
  private place: WebGLUniformLocation | null = null;
  private vertices: WebGLBuffer | null = null;
  private texels: WebGLBuffer | null = null;
  private indices: WebGLBuffer | null = null;
  private texture: WebGLTexture | null = null;
  private indexCount = 0;
  private grid = "";
  private picture: ImageBitmap | null = null;
  private readonly listening = new AbortController();

  /** `again` is called when the browser had taken the context away and gives it back. */
  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly again: () => void,
  ) {
    const gl = canvas.getContext("webgl2", WANTED);
    if (!gl) throw new Error("this browser cannot draw pictures with WebGL 2");
    this.gl = gl;
    if (wideScreen()) gl.drawingBufferColorSpace = gl.unpackColorSpace = "display-p3";
    this.prepare();
    const { signal } = this.listening;
    // Only a loss that is not the end of it is followed by a context that is given back.
    canvas.addEventListener("webglcontextlost", (event) => event.preventDefault(), { signal });
    canvas.addEventListener(
      "webglcontextrestored",
      () => {
        this.prepare();
        this.upload();
        this.again();
      },
      { signal },
    );
  }

  setPicture(picture: ImageBitmap) {
    this.picture?.close();
    this.picture = picture;
    this.upload();
    this.again();
  }

  draw(mesh: Mesh, view: View, stage: Size, density: number) {
    const { gl, canvas } = this;
    if (!this.picture || gl.isContextLost()) return;
    const [width, height] = [Math.round(stage.width * density), Math.round(stage.height * density)];
    if (canvas.width !== width || canvas.height !== height) {
      canvas.width = width;
      canvas.height = height;
    }
    gl.viewport(0, 0, width, height);
    this.setGrid(mesh);
    gl.bindBuffer(gl.ARRAY_BUFFER, this.vertices);
    gl.bufferData(gl.ARRAY_BUFFER, mesh.vertices, gl.DYNAMIC_DRAW);
    const [sx, sy] = [(2 * view.scale) / stage.width, (-2 * view.scale) / stage.height];
    gl.uniform4f(this.place, sx, sy, -view.x * sx, -view.y * sy);
    gl.clearColor(0, 0, 0, 0);
    gl.clear(gl.COLOR_BUFFER_BIT);
    gl.drawElements(gl.TRIANGLES, this.indexCount, gl.UNSIGNED_SHORT, 0);
  }

  dispose() {
    const { gl } = this;
    this.listening.abort();
    this.picture?.close();
    this.picture = null;
    gl.deleteTexture(this.texture);
    gl.deleteBuffer(this.vertices);
    gl.deleteBuffer(this.texels);
    gl.deleteBuffer(this.indices);
    gl.deleteProgram(this.program);
  }

  private prepare() {
    const { gl } = this;
    this.program = link(gl);
    gl.useProgram(this.program);
    this.place = gl.getUniformLocation(this.program, "view");
    this.vertices = gl.createBuffer();
    this.texels = gl.createBuffer();
    this.indices = gl.createBuffer();
    this.texture = gl.createTexture();
    this.grid = "";
    gl.bindTexture(gl.TEXTURE_2D, this.texture);
    for (const [name, value] of [
      [gl.TEXTURE_MIN_FILTER, gl.LINEAR],
      [gl.TEXTURE_MAG_FILTER, gl.LINEAR],
      [gl.TEXTURE_WRAP_S, gl.CLAMP_TO_EDGE],
      [gl.TEXTURE_WRAP_T, gl.CLAMP_TO_EDGE],
    ] as const)
      gl.texParameteri(gl.TEXTURE_2D, name, value);
  }

  private upload() {
    const { gl } = this;
    if (this.picture && !gl.isContextLost()) gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA, gl.RGBA, gl.UNSIGNED_BYTE, this.picture);
  }

  private setGrid({ columns, rows }: Mesh) {
    if (this.grid === `${columns}x${rows}`) return;
    this.grid = `${columns}x${rows}`;
    const { gl } = this;
    const texels: number[] = [];
    const indices: number[] = [];
    for (let i = 0; i <= rows; i++)
      for (let j = 0; j <= columns; j++) {
        texels.push(j / columns, i / rows);
        if (i === rows || j === columns) continue;
        const a = i * (columns + 1) + j;
        const b = a + columns + 1;
        indices.push(a, a + 1, b, a + 1, b + 1, b);
      }
    this.indexCount = indices.length;
    if (!this.program) return;
    attribute(gl, this.program, "texel", this.texels, 2, new Float32Array(texels));
    attribute(gl, this.program, "corrected", this.vertices, 3, null);
    gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, this.indices);
    gl.bufferData(gl.ELEMENT_ARRAY_BUFFER, new Uint16Array(indices), gl.STATIC_DRAW);
  }
}

function attribute(
  gl: WebGL2RenderingContext,
  program: WebGLProgram,
  name: string,
  buffer: WebGLBuffer | null,
  size: number,
  data: Float32Array<ArrayBuffer> | null,
) {
  gl.bindBuffer(gl.ARRAY_BUFFER, buffer);
  if (data) gl.bufferData(gl.ARRAY_BUFFER, data, gl.STATIC_DRAW);
  const place = gl.getAttribLocation(program, name);
  gl.enableVertexAttribArray(place);
  gl.vertexAttribPointer(place, size, gl.FLOAT, false, 0, 0);
}

function link(gl: WebGL2RenderingContext): WebGLProgram {
  const program = gl.createProgram();
  for (const [kind, source] of [
    [gl.VERTEX_SHADER, VERTEX],
    [gl.FRAGMENT_SHADER, FRAGMENT],
  ] as const) {
    const shader = gl.createShader(kind);
    if (!shader) throw new Error("the browser has taken the picture's surface away");
    gl.shaderSource(shader, source);
    gl.compileShader(shader);
    gl.attachShader(program, shader);
  }
  gl.linkProgram(program);
  if (!gl.getProgramParameter(program, gl.LINK_STATUS)) throw new Error(gl.getProgramInfoLog(program) ?? "link");
  return program;
}
