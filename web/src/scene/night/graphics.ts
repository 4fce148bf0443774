/** The same picture on a graphics card, where there is one that adds up light in halves of a float (WebGL 2). */
import type { Falling } from "../../api/client";
import { type Planes, halves, pointsOf } from "./compose";

const QUAD = `#version 300 es
out vec2 at;
void main() {
  vec2 corner = vec2(gl_VertexID & 1, gl_VertexID >> 1);
  at = corner;
  gl_Position = vec4(2.0 * corner - 1.0, 0.0, 1.0);
}`;

/** Rows go down in every plane, and up on the card. */
const ADD_UP = `#version 300 es
precision highp float;
in vec2 at;
out vec4 light;
uniform sampler2D body, around, sky, onBody, onAround, glare;
uniform vec3 skyLux;
float part(sampler2D plane, vec2 where) { float value = texture(plane, where).r; return value * value; }
void main() {
  vec2 where = vec2(at.x, 1.0 - at.y);
  vec3 falls = part(body, where) * texture(onBody, where).rgb + part(around, where) * texture(onAround, where).rgb + part(sky, where) * skyLux;
  light = vec4(falls + 3.14159265 * texture(glare, where).rgb, 1.0);
}`;

const POINT = `#version 300 es
layout(location = 0) in vec3 disc;
layout(location = 1) in vec3 rgb;
uniform vec2 size;
out vec3 shines;
out float radius;
void main() {
  gl_Position = vec4(2.0 * disc.x / size.x - 1.0, 1.0 - 2.0 * disc.y / size.y, 0.0, 1.0);
  gl_PointSize = 2.0 * disc.z + 2.0;
  radius = disc.z;
  shines = rgb;
}`;

const SHINE = `#version 300 es
precision highp float;
in vec3 shines;
in float radius;
out vec4 light;
void main() {
  float far = length(gl_PointCoord - 0.5) * (2.0 * radius + 2.0);
  light = vec4(3.14159265 * shines * clamp(radius + 0.5 - far, 0.0, 1.0), 0.0);
}`;

const TONE = `#version 300 es
precision highp float;
in vec2 at;
out vec4 shown;
uniform sampler2D light;
uniform float white;
void main() {
  vec3 x = texture(light, at).rgb / white;
  x += 0.012 * max(0.0, dot(x, vec3(0.2126, 0.7152, 0.0722)) - 1.0);
  vec3 y = min(vec3(1.0), x * (1.0 + x / 25.0) / (1.0 + x));
  shown = vec4(mix(1.055 * pow(y, vec3(1.0 / 2.4)) - 0.055, 12.92 * y, lessThanEqual(y, vec3(0.0031308))), 1.0);
}`;

/** A picture drawn on a card. */
export interface Graphics {
  draw: (planes: Planes, falling: Falling) => void;
}

/** The card behind a canvas; `null`: the processor draws. */
export function graphicsOf(canvas: HTMLCanvasElement): Graphics | null {
  const gl = canvas.getContext("webgl2", { antialias: false, preserveDrawingBuffer: true });
  if (!gl || !gl.getExtension("EXT_color_buffer_float")) return null;
  const program = (vertex: string, fragment: string) => {
    const made = gl.createProgram();
    for (const [kind, source] of [
      [gl.VERTEX_SHADER, vertex],
      [gl.FRAGMENT_SHADER, fragment],
    ] as const) {
      const shader = gl.createShader(kind)!;
      gl.shaderSource(shader, source);
      gl.compileShader(shader);
      gl.attachShader(made, shader);
    }
    gl.linkProgram(made);
    return gl.getProgramParameter(made, gl.LINK_STATUS) ? made : null;
  };
  const [adds, shines, tones] = [program(QUAD, ADD_UP), program(POINT, SHINE), program(QUAD, TONE)];
  if (!adds || !shines || !tones) return null;
  const texture = () => {
    const made = gl.createTexture();
    gl.bindTexture(gl.TEXTURE_2D, made);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.LINEAR);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_S, gl.CLAMP_TO_EDGE);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_T, gl.CLAMP_TO_EDGE);
    return made;
  };
  const names = ["body", "around", "sky", "onBody", "onAround", "glare"] as const;
  const textures = names.map(texture);
  const light = texture();
  const buffer = gl.createFramebuffer();
  const [none, discs] = [gl.createVertexArray(), gl.createVertexArray()];
  const data = gl.createBuffer();
  gl.bindVertexArray(discs);
  gl.bindBuffer(gl.ARRAY_BUFFER, data);
  for (const at of [0, 1]) {
    gl.enableVertexAttribArray(at);
    gl.vertexAttribPointer(at, 3, gl.FLOAT, false, 24, 12 * at);
  }
  gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
  let drawn: Planes | undefined;

  const take = (planes: Planes) => {
    const { wide, high } = planes;
    [planes.body, planes.around, planes.sky].forEach((plane, at) => {
      gl.bindTexture(gl.TEXTURE_2D, textures[at]!);
      gl.texImage2D(gl.TEXTURE_2D, 0, gl.R8, wide, high, 0, gl.RED, gl.UNSIGNED_BYTE, plane);
    });
    gl.bindTexture(gl.TEXTURE_2D, light);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA16F, wide, high, 0, gl.RGBA, gl.HALF_FLOAT, null);
    gl.bindFramebuffer(gl.FRAMEBUFFER, buffer);
    gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, light, 0);
    [canvas.width, canvas.height] = [wide, high];
    drawn = planes;
  };

  const draw = (planes: Planes, falling: Falling) => {
    if (drawn !== planes) take(planes);
    const { wide, high } = planes;
    const maps = [
      [falling.body, planes.lightWide, planes.lightHigh],
      [falling.around, planes.lightWide, planes.lightHigh],
      [falling.glare, planes.glareWide, planes.glareHigh],
    ] as const;
    maps.forEach(([map, across, down], at) => {
      gl.bindTexture(gl.TEXTURE_2D, textures[3 + at]!);
      gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGB16F, across, down, 0, gl.RGB, gl.HALF_FLOAT, halves(map));
    });
    gl.bindFramebuffer(gl.FRAMEBUFFER, buffer);
    gl.viewport(0, 0, wide, high);
    gl.disable(gl.BLEND);
    gl.useProgram(adds);
    gl.bindVertexArray(none);
    names.forEach((name, at) => {
      gl.activeTexture(gl.TEXTURE0 + at);
      gl.bindTexture(gl.TEXTURE_2D, textures[at]!);
      gl.uniform1i(gl.getUniformLocation(adds, name), at);
    });
    gl.activeTexture(gl.TEXTURE0);
    gl.uniform3fv(gl.getUniformLocation(adds, "skyLux"), falling.sky_lx);
    gl.drawArrays(gl.TRIANGLE_STRIP, 0, 4);

    const points = pointsOf(falling.points);
    gl.enable(gl.BLEND);
    gl.blendFunc(gl.ONE, gl.ONE);
    gl.useProgram(shines);
    gl.uniform2f(gl.getUniformLocation(shines, "size"), wide, high);
    gl.bindVertexArray(discs);
    gl.bindBuffer(gl.ARRAY_BUFFER, data);
    // A half of a float ends at 65,504; nothing is whiter than white long before.
    const most = 2e4;
    gl.bufferData(
      gl.ARRAY_BUFFER,
      Float32Array.from(points.flatMap(({ x, y, radius, rgb }) => [x, y, radius, ...rgb.map((value) => Math.min(most, value))])),
      gl.DYNAMIC_DRAW,
    );
    gl.drawArrays(gl.POINTS, 0, points.length);

    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    gl.viewport(0, 0, wide, high);
    gl.disable(gl.BLEND);
    gl.useProgram(tones);
    gl.bindVertexArray(none);
    gl.bindTexture(gl.TEXTURE_2D, light);
    gl.uniform1i(gl.getUniformLocation(tones, "light"), 0);
    gl.uniform1f(gl.getUniformLocation(tones, "white"), falling.white_lx);
    gl.drawArrays(gl.TRIANGLE_STRIP, 0, 4);
  };
  return { draw };
}
