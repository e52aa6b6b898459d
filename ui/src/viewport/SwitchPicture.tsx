import { useFrame, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef } from "react";
import {
  HalfFloatType,
  Mesh,
  NearestFilter,
  OrthographicCamera,
  type PerspectiveCamera,
  PlaneGeometry,
  Scene,
  ShaderMaterial,
  WebGLRenderTarget,
} from "three";

import type { LoadedModel } from "./model";

/** Milliseconds that each of two blinking levels is seen. */
const BLINK = 500;

const VERTEX = /* glsl */ `
varying vec2 vUv;
void main() {
  vUv = uv;
  gl_Position = vec4(position.xy, 0.0, 1.0);
}`;

const BLINKING = /* glsl */ `
uniform sampler2D one;
uniform sampler2D other;
uniform float showsOther;
varying vec2 vUv;
void main() {
  gl_FragColor = mix(texture2D(one, vUv), texture2D(other, vUv), showsOther);
  if (gl_FragColor.a < 0.004) discard;
  #include <tonemapping_fragment>
  #include <colorspace_fragment>
}`;

const DIFFERING = /* glsl */ `
uniform sampler2D one;
uniform sampler2D other;
varying vec2 vUv;
void main() {
  vec4 a = texture2D(one, vUv);
  vec4 b = texture2D(other, vUv);
  if (max(a.a, b.a) < 0.004) discard;
  float outline = abs(a.a - b.a);
  float light = dot(abs(sqrt(a.rgb * a.a) - sqrt(b.rgb * b.a)), vec3(0.33));
  float off = clamp(max(outline, light * 4.0), 0.0, 1.0);
  float grey = 0.82 - 0.25 * dot(sqrt(a.rgb), vec3(0.33));
  vec3 color = mix(vec3(grey), outline > light * 4.0 ? vec3(0.62, 0.02, 0.20) : vec3(0.028, 0.159, 0.283), off);
  gl_FragColor = vec4(color, 1.0);
  #include <colorspace_fragment>
}`;

interface SwitchPictureProps {
  model: LoadedModel;
  one: number;
  other: number;
  kind: "blink" | "difference";
  /** Pixels of the game's view that the prop is high; where it is enlarged, each of them is so many of the screen's that it
   * fills the view, otherwise one. */
  pixels: number;
  enlarged: boolean;
  onBlink: (showsOther: boolean) => void;
}

/** Two levels, each drawn at the game's own pixel size: one after the other, or what differs between them. */
export function SwitchPicture({ model, one, other, kind, pixels, enlarged, onBlink }: SwitchPictureProps) {
  const invalidate = useThree((state) => state.invalidate);
  const tell = useRef(onBlink);
  useEffect(() => {
    tell.current = onBlink;
  });
  const made = useMemo(() => {
    const target = () =>
      new WebGLRenderTarget(4, 4, {
        type: HalfFloatType,
        magFilter: NearestFilter,
        minFilter: NearestFilter,
        samples: 4,
      });
    const targets = [target(), target()] as const;
    const uniforms = {
      one: { value: targets[0].texture },
      other: { value: targets[1].texture },
      showsOther: { value: 0 },
    };
    const blink = new ShaderMaterial({
      vertexShader: VERTEX,
      fragmentShader: BLINKING,
      uniforms,
      depthTest: false,
      depthWrite: false,
    });
    const differ = new ShaderMaterial({
      vertexShader: VERTEX,
      fragmentShader: DIFFERING,
      uniforms,
      depthTest: false,
      depthWrite: false,
      toneMapped: false,
    });
    const sheet = new Mesh(new PlaneGeometry(2, 2), blink);
    sheet.frustumCulled = false;
    const scene = new Scene();
    scene.add(sheet);
    return { targets, uniforms, blink, differ, sheet, scene, camera: new OrthographicCamera() };
  }, []);
  useEffect(
    () => () => {
      made.targets.forEach((target) => target.dispose());
      made.blink.dispose();
      made.differ.dispose();
      made.sheet.geometry.dispose();
    },
    [made],
  );
  useEffect(() => {
    if (kind !== "blink") return;
    const timer = setInterval(() => {
      const next = made.uniforms.showsOther.value === 0;
      made.uniforms.showsOther.value = next ? 1 : 0;
      tell.current(next);
      invalidate();
    }, BLINK);
    return () => clearInterval(timer);
  }, [kind, made, invalidate]);
  useEffect(() => invalidate(), [model, one, other, kind, pixels, enlarged, invalidate]);
  useFrame(({ gl, scene, camera, size }) => {
    const zoom = enlarged
      ? Math.max(Math.floor((0.8 * Math.min(size.width, size.height)) / Math.max(pixels, 1)), 1)
      : 1;
    // The middle of the view, so many of its pixels as fit when each is enlarged.
    const width = Math.max(Math.round(size.width / zoom), 1);
    const height = Math.max(Math.round(size.height / zoom), 1);
    const eye = camera as PerspectiveCamera;
    const around = scene.children.filter(
      (child) => !model.levels.some(({ object }) => object === child) && child.visible && !("isLight" in child),
    );
    around.forEach((child) => (child.visible = false));
    const framed = eye.view?.enabled ? { ...eye.view } : null;
    eye.setViewOffset(size.width, size.height, (size.width - width) / 2, (size.height - height) / 2, width, height);
    const pairs = [
      [one, made.targets[0]],
      [other, made.targets[1]],
    ] as const;
    pairs.forEach(([index, target]) => {
      target.setSize(width, height);
      model.levels.forEach((level, i) => (level.object.visible = i === index));
      gl.setRenderTarget(target);
      gl.setClearColor(0x000000, 0);
      gl.clear();
      gl.render(scene, camera);
    });
    if (framed) {
      const { fullWidth, fullHeight, offsetX, offsetY } = framed;
      eye.setViewOffset(fullWidth, fullHeight, offsetX, offsetY, framed.width, framed.height);
    } else eye.clearViewOffset();
    gl.setRenderTarget(null);
    around.forEach((child) => (child.visible = true));
    made.sheet.material = kind === "blink" ? made.blink : made.differ;
    gl.setScissorTest(false);
    gl.clear();
    gl.render(made.scene, made.camera);
  }, 1);
  return null;
}
