import { DoubleSide, ShaderMaterial } from "three";

const VERTEX = /* glsl */ `
varying vec3 vNormalView;
varying vec3 vPlace;
void main() {
  vNormalView = normalize(normalMatrix * normal);
  vec4 place = modelViewMatrix * vec4(position, 1.0);
  vPlace = place.xyz;
  gl_Position = projectionMatrix * place;
}`;

const STRIPES = /* glsl */ `
varying vec3 vNormalView;
varying vec3 vPlace;
void main() {
  vec3 n = normalize(vNormalView) * (gl_FrontFacing ? 1.0 : -1.0);
  vec3 mirrored = reflect(normalize(vPlace), n);
  float at = (mirrored.y * 0.85 + mirrored.x * 0.4) * 9.0;
  float soft = fwidth(at) * 0.75;
  float wave = abs(fract(at) - 0.5) * 2.0;
  float stripe = soft > 0.5 ? 0.5 : smoothstep(0.5 - soft, 0.5 + soft, wave);
  gl_FragColor = vec4(mix(vec3(0.012, 0.03, 0.07), vec3(0.92, 0.90, 0.82), stripe), 1.0);
  #include <colorspace_fragment>
}`;

/** Degrees at which the colour of a slant is full. */
export const SLANT_FULL = 45;

const SLANT = /* glsl */ `
varying vec3 vNormalView;
varying vec3 vPlace;
void main() {
  vec3 face = normalize(cross(dFdx(vPlace), dFdy(vPlace)));
  float off = degrees(acos(clamp(dot(face, normalize(vNormalView) * (gl_FrontFacing ? 1.0 : -1.0)), -1.0, 1.0)));
  float t = clamp(off / ${SLANT_FULL.toFixed(1)}, 0.0, 1.0);
  vec3 low = vec3(0.90, 0.92, 0.90);
  vec3 middle = vec3(0.85, 0.62, 0.20);
  vec3 high = vec3(0.50, 0.03, 0.28);
  vec3 color = t < 0.5 ? mix(low, middle, t * 2.0) : mix(middle, high, t * 2.0 - 1.0);
  gl_FragColor = vec4(color * (0.82 + 0.18 * abs(face.z)), 1.0);
  #include <colorspace_fragment>
}`;

const SIDES = /* glsl */ `
varying vec3 vNormalView;
varying vec3 vPlace;
void main() {
  vec3 face = normalize(cross(dFdx(vPlace), dFdy(vPlace)));
  float lit = 0.55 + 0.45 * abs(face.z);
  vec3 color = vec3(0.80, 0.83, 0.84) * lit;
  if (!gl_FrontFacing) {
    float hatch = step(0.5, fract((gl_FragCoord.x + gl_FragCoord.y) / 9.0));
    color = mix(vec3(0.72, 0.12, 0.10), vec3(0.98, 0.82, 0.30), hatch) * (0.7 + 0.3 * lit);
  }
  gl_FragColor = vec4(color, 1.0);
  #include <colorspace_fragment>
}`;

const study = (fragmentShader: string): ShaderMaterial =>
  new ShaderMaterial({
    vertexShader: VERTEX,
    fragmentShader,
    side: DoubleSide,
    polygonOffset: true,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 1,
  });

/** Ways of drawing that ask something of the surface instead of showing its materials. */
export const STUDIES = { stripes: study(STRIPES), slant: study(SLANT), sides: study(SIDES) };
