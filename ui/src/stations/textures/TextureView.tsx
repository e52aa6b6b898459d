import { Canvas, useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { Mesh, PlaneGeometry, type Texture } from "three";

import type { BlockCodec } from "../../viewport/dds";
import { PanZoom } from "../../viewport/PanZoom";
import { useDrawn } from "../../viewport/useDrawn";
import type { TextureLook } from "./textureLook";
import { comparing, set, SHOWS } from "./textureShader";

interface TextureViewProps {
  source: Texture;
  result: { texture: Texture; codec: BlockCodec } | null;
  width: number;
  height: number;
  isNormal: boolean;
  look: TextureLook;
  /** Pixels of the screen for one of the texture; null where the whole is in sight. */
  zoom: number | null;
  stamp: number;
}

const HOLDS: Partial<Record<BlockCodec, number>> = { bc4: 1, bc5: 2 };
const FILLS = 0.9;

/** Source and result in one view with one pan and zoom, pixel by pixel. */
export function TextureView(props: TextureViewProps) {
  const { width, height, zoom, stamp } = props;
  const middle = useMemo(() => [width / 2, height / 2] as const, [width, height]);
  return (
    <Canvas
      orthographic
      frameloop="demand"
      dpr={[1, 2]}
      camera={{ position: [width / 2, height / 2, 10], near: 0, far: 20 }}
      gl={{ antialias: false, alpha: true, preserveDrawingBuffer: true }}
      flat
      role="img"
      tabIndex={0}
      aria-label="source and result of the texture"
    >
      <PanZoom middle={middle} extent={Math.max(width, height)} fills={FILLS} zoom={zoom} stamp={stamp} />
      <Compared {...props} />
    </Canvas>
  );
}

function Compared({ source, result, width, height, isNormal, look }: TextureViewProps) {
  const { size, gl, invalidate } = useThree();
  const holds = result ? (HOLDS[result.codec] ?? 4) : 4;
  const plane = useMemo(() => {
    const geometry = new PlaneGeometry(width, height).translate(width / 2, height / 2, 0);
    const uv = geometry.getAttribute("uv");
    // Rows of a texture run down.
    for (let i = 0; i < uv.count; i += 1) uv.setY(i, 1 - uv.getY(i));
    return new Mesh(geometry, comparing(source, result?.texture ?? null, holds, isNormal));
  }, [source, result, width, height, holds, isNormal]);
  useDrawn(plane, null);
  useEffect(() => {
    set(plane.material, {
      meets: look.split * size.width * gl.getPixelRatio(),
      level: look.level,
      shows: SHOWS.indexOf(look.shows),
      gain: look.error ?? 0,
    });
    invalidate();
  }, [plane, look, size, gl, invalidate]);
  return null;
}
