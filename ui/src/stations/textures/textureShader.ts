import { GLSL3, ShaderMaterial, type Texture } from "three";

/** What of the pixels is shown. */
export type Shows = "color" | "r" | "g" | "b" | "a" | "lit";
export const SHOWS: Shows[] = ["color", "r", "g", "b", "a", "lit"];

const VERTEX = /* glsl */ `
out vec2 at;
void main() {
  at = uv;
  gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
}`;

/** Source and result meet at a line of the screen. Numbers are shown as they are stored. */
const FRAGMENT = /* glsl */ `
precision highp float;
uniform sampler2D source;
uniform sampler2D result;
uniform bool hasResult;
uniform float meets;
uniform float level;
uniform int shows;
uniform int holds;
uniform bool isNormal;
uniform float gain;
in vec2 at;
out vec4 drawn;

vec4 taken(sampler2D map) {
  ivec2 size = textureSize(map, int(level));
  ivec2 texel = clamp(ivec2(at * vec2(size)), ivec2(0), size - 1);
  return texelFetch(map, texel, int(level));
}

/* What a codec does not hold is found as a shader would find it. */
vec4 whole(vec4 texel) {
  if (holds == 1) return vec4(texel.rrr, 1.0);
  if (holds == 2) {
    vec2 flat_ = texel.rg * 2.0 - 1.0;
    return vec4(texel.rg, sqrt(max(1.0 - dot(flat_, flat_), 0.0)) * 0.5 + 0.5, 1.0);
  }
  return texel;
}

vec3 seen(vec4 texel, vec2 place) {
  if (shows == 1) return texel.rrr;
  if (shows == 2) return texel.ggg;
  if (shows == 3) return texel.bbb;
  if (shows == 4) return texel.aaa;
  if (shows == 5) {
    vec3 normal = normalize(texel.rgb * 2.0 - 1.0);
    vec3 light = normalize(vec3(-0.5, 0.6, 0.7));
    float shine = pow(max(dot(normal, normalize(light + vec3(0.0, 0.0, 1.0))), 0.0), 40.0);
    return vec3(0.12 + 0.72 * max(dot(normal, light), 0.0)) + 0.25 * shine;
  }
  float board = mod(floor(place.x / 8.0) + floor(place.y / 8.0), 2.0);
  return mix(vec3(0.72 + 0.16 * board), texel.rgb, isNormal ? 1.0 : texel.a);
}

/* From nothing through blue and yellow to dark red, as the legend has it. */
vec3 heat(float share) {
  vec3 low = mix(vec3(0.97, 0.96, 0.92), vec3(0.31, 0.56, 0.69), clamp(share * 3.0, 0.0, 1.0));
  vec3 middle = mix(low, vec3(0.88, 0.67, 0.25), clamp(share * 3.0 - 1.0, 0.0, 1.0));
  return mix(middle, vec3(0.70, 0.15, 0.12), clamp(share * 3.0 - 2.0, 0.0, 1.0));
}

void main() {
  vec4 before = taken(source);
  vec4 after = hasResult ? whole(taken(result)) : before;
  vec4 compared = holds == 1 ? vec4(before.rrr, 1.0) : holds == 2 ? vec4(before.rg, after.b, 1.0) : before;
  if (gain > 0.0) {
    vec4 off = abs(after - compared);
    float most = shows == 1 ? off.r : shows == 2 ? off.g : shows == 3 ? off.b : shows == 4 ? off.a
      : max(max(off.r, off.g), max(off.b, off.a));
    drawn = vec4(heat(most * 255.0 / gain), 1.0);
    return;
  }
  bool isLeft = gl_FragCoord.x < meets;
  drawn = vec4(seen(isLeft || !hasResult ? before : after, gl_FragCoord.xy), 1.0);
}`;

/** The material of the plane that compares two textures. */
export function comparing(source: Texture, result: Texture | null, holds: number, isNormal: boolean): ShaderMaterial {
  return new ShaderMaterial({
    glslVersion: GLSL3,
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    uniforms: {
      source: { value: source },
      result: { value: result ?? source },
      hasResult: { value: result !== null },
      meets: { value: 0 },
      level: { value: 0 },
      shows: { value: 0 },
      holds: { value: holds },
      isNormal: { value: isNormal },
      gain: { value: 0 },
    },
  });
}

/** Sets numbers of that material. */
export function set(material: ShaderMaterial, values: Record<string, number>): void {
  for (const [name, value] of Object.entries(values)) {
    const uniform = material.uniforms[name];
    if (uniform) uniform.value = value;
  }
}
